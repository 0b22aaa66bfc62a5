"use client";
import { useEffect, useId, useState } from "react";
import { arithmetic } from "@/core/units/arithmetic";
import { fromShown, type Quantity, showNumber, toShown, unitLabel, type UnitSystem } from "@/core/units/units";

type Base = {
  label: string;
  hideLabel?: boolean | undefined;
  disabled?: boolean | undefined;
  hint?: string | undefined;
};

function Labelled({
  id,
  label,
  hideLabel,
  hint,
  error,
  children,
}: Base & { id: string; error?: string | null; children: React.ReactNode }) {
  return (
    <div className="min-w-0">
      <label htmlFor={id} className={hideLabel ? "sr-only" : "block text-sm faint"}>
        {label}
      </label>
      {children}
      {hint && !error && <p className="text-xs faint mt-0.5">{hint}</p>}
      {error && (
        <p id={`${id}-error`} role="alert" className="text-sm text-error mt-0.5">
          {error}
        </p>
      )}
    </div>
  );
}

export function TextField({
  label,
  value,
  onCommit,
  hideLabel,
  disabled,
  hint,
  placeholder,
}: Base & { value: string; onCommit: (value: string) => void; placeholder?: string | undefined }) {
  const id = useId();
  const [text, setText] = useState(value);
  useEffect(() => setText(value), [value]);
  return (
    <Labelled id={id} label={label} hideLabel={hideLabel} hint={hint}>
      <input
        id={id}
        className="entry"
        value={text}
        placeholder={placeholder}
        disabled={disabled}
        onChange={(e) => setText(e.target.value)}
        onBlur={() => text !== value && onCommit(text)}
        onKeyDown={(e) => {
          if (e.key === "Enter") e.currentTarget.blur();
          if (e.key === "Escape") setText(value);
        }}
      />
    </Labelled>
  );
}

type NumberProps = Base & {
  value: number | undefined;
  onCommit: (value: number | undefined) => void;
  /** Converts between base and shown units. */
  quantity?: Quantity;
  system?: UnitSystem;
  /** Shown instead of a quantity's unit. */
  unit?: string | undefined;
  min?: number;
  max?: number;
  whole?: boolean;
  required?: boolean;
  placeholder?: string | undefined;
};

/** Says its unit and range and takes arithmetic; a value out of range is refused with its range, and nothing changes. */
export function NumberField({
  label,
  value,
  onCommit,
  quantity,
  system = "metric",
  unit,
  min,
  max,
  whole,
  required,
  hideLabel,
  disabled,
  hint,
  placeholder,
}: NumberProps) {
  const id = useId();
  const shown =
    value === undefined ? "" : Number((quantity ? toShown(value, quantity, system) : value).toPrecision(7)).toString();
  const [text, setText] = useState(shown);
  const [error, setError] = useState<string | null>(null);
  useEffect(() => {
    setText(shown);
    setError(null);
  }, [shown]);
  const label2 = quantity ? unitLabel(quantity, system) : unit;
  const limit = (base: number): string => showNumber(quantity ? toShown(base, quantity, system) : base, 3);
  const commit = (): void => {
    if (text === shown) return setError(null);
    if (text.trim() === "") {
      if (required) return setError(`${label} is needed.`);
      setError(null);
      return onCommit(undefined);
    }
    const typed = arithmetic(text);
    if (typed === null) return setError(`"${text}" is not a number. Type a figure or a sum like 3*12.5.`);
    const next = quantity ? fromShown(typed, quantity, system) : typed;
    if (whole && !Number.isInteger(next)) return setError(`${label} must be a whole number.`);
    if ((min !== undefined && next < min - 1e-9) || (max !== undefined && next > max + 1e-9))
      return setError(
        `${label} must be ${min !== undefined ? `at least ${limit(min)}` : ""}${min !== undefined && max !== undefined ? " and " : ""}${max !== undefined ? `at most ${limit(max)}` : ""}${label2 ? ` ${label2}` : ""}.`,
      );
    setError(null);
    onCommit(next);
  };
  return (
    <Labelled
      id={id}
      label={label2 && !hideLabel ? `${label}, ${label2}` : label}
      hideLabel={hideLabel}
      hint={hint}
      error={error}
    >
      <input
        id={id}
        className="entry num"
        inputMode="decimal"
        value={text}
        disabled={disabled}
        placeholder={placeholder}
        aria-invalid={error !== null}
        aria-describedby={error ? `${id}-error` : undefined}
        title={
          min !== undefined && max !== undefined
            ? `${limit(min)} to ${limit(max)}${label2 ? ` ${label2}` : ""}`
            : undefined
        }
        onChange={(e) => setText(e.target.value)}
        onBlur={commit}
        onKeyDown={(e) => {
          if (e.key === "Enter") commit();
          if (e.key === "Escape") {
            setText(shown);
            setError(null);
          }
        }}
      />
    </Labelled>
  );
}

export function ChoiceField<T extends string>({
  label,
  value,
  options,
  onCommit,
  hideLabel,
  disabled,
  hint,
}: Base & { value: T; options: readonly (readonly [T, string])[]; onCommit: (value: T) => void }) {
  const id = useId();
  return (
    <Labelled id={id} label={label} hideLabel={hideLabel} hint={hint}>
      <select
        id={id}
        className="entry"
        value={value}
        disabled={disabled}
        onChange={(e) => onCommit(e.target.value as T)}
      >
        {options.map(([v, words]) => (
          <option key={v} value={v}>
            {words}
          </option>
        ))}
      </select>
    </Labelled>
  );
}

export function TickField({
  label,
  checked,
  onCommit,
  disabled,
}: {
  label: string;
  checked: boolean;
  onCommit: (checked: boolean) => void;
  disabled?: boolean | undefined;
}) {
  return (
    <label className="inline-flex items-center gap-2 min-h-[1.9rem]">
      <input
        type="checkbox"
        className="size-4 accent-[var(--water)]"
        checked={checked}
        disabled={disabled}
        onChange={(e) => onCommit(e.target.checked)}
      />
      {label}
    </label>
  );
}

/** A caution where the step is: one line, never hiding the work (handbook#10-cautions). */
export function Caution({ children }: { children: React.ReactNode }) {
  return (
    <p className="text-sm border-l-4 border-warning pl-2 my-2">
      <strong>Caution.</strong> {children}
    </p>
  );
}
