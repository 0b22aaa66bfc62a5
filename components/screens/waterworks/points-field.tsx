"use client";
import { useEffect, useId, useState } from "react";
import { useWorkspace } from "@/components/draft/site-draft";
import { TextArea } from "@/components/kit/inputs";
import { fromShown, toShown, unitLabel } from "@/core/units/units";

/** Points of a curve, one a line, in the units shown; kept in base units. `rising`: the flows must rise from line to line. */
export function PointsField({
  label,
  quantity,
  of = "",
  value,
  rising,
  required,
  onCommit,
}: {
  label: string;
  /** What stands at each flow. */
  quantity: "pressure" | "length";
  /** Of what it is, after its unit: "of head". */
  of?: string;
  value: [number, number][];
  rising?: boolean;
  required?: boolean;
  onCommit: (points: [number, number][]) => void;
}) {
  const { canEdit, units } = useWorkspace("canEdit", "units");
  const id = useId();
  const axes = ["flow", quantity] as const;
  const [flowUnit, unit] = [unitLabel("flow", units), `${unitLabel(quantity, units)} ${of}`.trim()];
  const write = (v: number, axis: 0 | 1): number => Number(toShown(v, axes[axis], units).toFixed(3));
  const shown = value.map(([x, y]) => `${write(x, 0)} ${write(y, 1)}`).join("\n");
  const [text, setText] = useState(shown);
  const [error, setError] = useState<string | null>(null);
  useEffect(() => {
    setText(shown);
    setError(null);
  }, [shown]);
  const commit = (): void => {
    if (text === shown) {
      setError(null);
      return;
    }
    const lines = text
      .split("\n")
      .map((r) => r.trim())
      .filter((r) => r !== "");
    const rows = lines.map((r) => r.split(/[\s,;:]+/).map(Number));
    const wrong = rows.findIndex((r) => r.length !== 2 || r.some((v) => !Number.isFinite(v) || v < 0));
    if (wrong >= 0 || (required && rows.length === 0)) {
      setError(`Line ${Math.max(0, wrong) + 1}: write a flow in ${flowUnit} and ${unit}, like "120 58".`);
      return;
    }
    if (rising && rows.some((r, i) => i > 0 && (r[0] as number) <= (rows[i - 1]?.[0] as number))) {
      setError("The flows must rise from line to line.");
      return;
    }
    setError(null);
    // A line that was not touched keeps its figures, not what was left of them on the page.
    const before = shown.split("\n");
    onCommit(
      rows.map(
        ([x = 0, y = 0], i) =>
          value[before.indexOf(lines[i] ?? "")] ?? [fromShown(x, "flow", units), fromShown(y, quantity, units)],
      ),
    );
  };
  return (
    <div className="col-span-2">
      <label htmlFor={id} className="block text-sm text-faint">
        {label}: one point a line, {flowUnit} and {unit}
      </label>
      <TextArea
        id={id}
        rows={Math.max(2, value.length)}
        value={text}
        disabled={!canEdit}
        onChange={(e) => setText(e.target.value)}
        onBlur={commit}
        aria-invalid={error !== null}
      />
      {error && (
        <p role="alert" className="text-sm text-error">
          {error}
        </p>
      )}
    </div>
  );
}
