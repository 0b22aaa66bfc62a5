"use client";
import { MONTHS } from "@/core/dates/months";
import { Button } from "./button";
import { Input } from "./inputs";
import { useEffect, useId, useRef, useState } from "react";
import { arithmetic } from "@/core/units/arithmetic";

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
  const box = useRef<HTMLFieldSetElement>(null);
  const shown = (value ?? []).map(String);
  const [text, setText] = useState<string[]>(MONTHS.map((_, m) => shown[m] ?? ""));
  const [error, setError] = useState<string | null>(null);
  const key = shown.join(" ");
  useEffect(() => {
    const now = key === "" ? [] : key.split(" ");
    setText(MONTHS.map((_, m) => now[m] ?? ""));
    setError(null);
  }, [key]);
  const blank = text.filter((t) => t.trim() === "").length;
  const commit = (months = text): void => {
    const empty = months.findIndex((t) => t.trim() === "");
    if (months.every((t) => t.trim() === "")) {
      setError(null);
      if (value) onCommit(undefined);
      return;
    }
    const figures = months.map((t) => (t.trim() === "" ? (usual ?? 0) : arithmetic(t)));
    const wrong = figures.findIndex((f) => f === null || f < 0 || f > max);
    if (wrong >= 0) {
      setError(`${MONTHS[wrong]}: "${months[wrong]}" must be a figure from 0 to ${max} ${unit}.`);
      return;
    }
    if (empty >= 0 && usual === undefined) {
      setError(`${MONTHS[empty]} is empty: give every month. 0 means none in it.`);
      return;
    }
    setError(null);
    if (figures.join(" ") !== key) onCommit(figures as number[]);
  };
  /** The figure that stands first, in every month that is empty. */
  const first = text.find((t) => t.trim() !== "");
  const fill = (): void => {
    const all = text.map((t) => (t.trim() === "" ? (first ?? "") : t));
    setText(all);
    commit(all);
  };
  return (
    <fieldset ref={box}>
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
              onBlur={(e) => {
                // While months stand empty they may all be meant to: it is taken when the last of them is left.
                const within = box.current?.contains(e.relatedTarget) ?? false;
                if (!within || blank === 0) commit();
              }}
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
      {usual === undefined && first !== undefined && blank > 0 && !disabled && (
        <Button rank="quiet" onClick={fill}>
          {first} {unit} in the {blank === 1 ? "empty one" : `${blank} empty ones`}
        </Button>
      )}
    </fieldset>
  );
}
