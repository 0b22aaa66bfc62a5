"use client";
import { Input } from "./inputs";
import { useEffect, useId, useState } from "react";
import { arithmetic } from "@/core/units/arithmetic";

const MONTHS = ["Jan", "Feb", "Mar", "Apr", "May", "Jun", "Jul", "Aug", "Sep", "Oct", "Nov", "Dec"];

/** Twelve figures, one a month. Empty everywhere: none. */
export function MonthsField({
  label,
  unit,
  value,
  usual,
  max,
  disabled,
  onCommit,
}: {
  label: string;
  unit: string;
  value: number[] | undefined;
  usual: number | undefined;
  max: number;
  disabled?: boolean;
  onCommit: (value: number[] | undefined) => void;
}) {
  const id = useId();
  const shown = (value ?? []).map(String);
  const [text, setText] = useState<string[]>(MONTHS.map((_, m) => shown[m] ?? ""));
  const [error, setError] = useState<string | null>(null);
  const key = shown.join(" ");
  useEffect(() => {
    const now = key === "" ? [] : key.split(" ");
    setText(MONTHS.map((_, m) => now[m] ?? ""));
    setError(null);
  }, [key]);
  const commit = (): void => {
    if (text.every((t) => t.trim() === "")) {
      setError(null);
      if (value) onCommit(undefined);
      return;
    }
    const figures = text.map((t) => (t.trim() === "" ? (usual ?? 0) : arithmetic(t)));
    const wrong = figures.findIndex((f) => f === null || f < 0 || f > max);
    if (wrong >= 0) {
      setError(`${MONTHS[wrong]}: "${text[wrong]}" must be a figure from 0 to ${max} ${unit}.`);
      return;
    }
    setError(null);
    if (figures.join(" ") !== key) onCommit(figures as number[]);
  };
  return (
    <fieldset>
      <legend className="text-sm text-faint">
        {label}, {unit}
      </legend>
      <div className="grid grid-cols-6 gap-1">
        {MONTHS.map((month, m) => (
          <label key={month} className="min-w-0">
            <span className="block text-xs text-faint">{month}</span>
            <Input
              id={`${id}-${m}`}
              className="text-right !px-1"
              inputMode="decimal"
              aria-label={`${label}, ${month}, ${unit}`}
              aria-invalid={error?.startsWith(month) ?? false}
              placeholder={usual === undefined ? "" : String(usual)}
              value={text[m]}
              disabled={disabled}
              onChange={(e) => setText(text.map((t, i) => (i === m ? e.target.value : t)))}
              onBlur={commit}
              onKeyDown={(e) => {
                if (e.key === "Enter") commit();
              }}
            />
          </label>
        ))}
      </div>
      {error && (
        <p role="alert" className="text-sm text-error">
          {error}
        </p>
      )}
    </fieldset>
  );
}
