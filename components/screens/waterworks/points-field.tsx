"use client";
import { useEffect, useId, useState } from "react";
import { useWorkspace } from "@/components/draft/site-draft";
import { TextArea } from "@/components/kit/inputs";

/** Points of a curve, one a line. `rising`: the flows must rise from line to line. */
export function PointsField({
  label,
  unit,
  value,
  rising,
  required,
  onCommit,
}: {
  label: string;
  unit: string;
  value: [number, number][];
  rising?: boolean;
  required?: boolean;
  onCommit: (points: [number, number][]) => void;
}) {
  const { canEdit } = useWorkspace("canEdit");
  const id = useId();
  const shown = value.map((p) => p.map((v) => Number(v.toFixed(3))).join(" ")).join("\n");
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
    const rows = text
      .split("\n")
      .map((r) => r.trim())
      .filter((r) => r !== "")
      .map((r) => r.split(/[\s,;:]+/).map(Number));
    const wrong = rows.findIndex((r) => r.length !== 2 || r.some((v) => !Number.isFinite(v) || v < 0));
    if (wrong >= 0 || (required && rows.length === 0)) {
      setError(`Line ${Math.max(0, wrong) + 1}: write a flow in L/min and ${unit}, like "120 58".`);
      return;
    }
    if (rising && rows.some((r, i) => i > 0 && (r[0] as number) <= (rows[i - 1]?.[0] as number))) {
      setError("The flows must rise from line to line.");
      return;
    }
    setError(null);
    onCommit(rows as [number, number][]);
  };
  return (
    <div className="col-span-2">
      <label htmlFor={id} className="block text-sm text-faint">
        {label}: one point a line, L/min and {unit}
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
