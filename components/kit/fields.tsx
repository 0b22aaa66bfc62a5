"use client";
import { useEffect, useId, useState } from "react";
import { arithmetic } from "@/core/units/arithmetic";
import { fromShown, type Quantity, showNumber, toShown, unitLabel, type UnitSystem } from "@/core/units/units";
import { classes } from "./classes";
import { significant } from "./conventions";
import { Checkbox, Input, Select, TextArea } from "./inputs";

type Base = {
  label: string;
  hideLabel?: boolean | undefined;
  disabled?: boolean | undefined;
  hint?: string | undefined;
  className?: string | undefined;
};

/** Label above, the field, and below it what is wrong or worth knowing. */
export function Labelled({
  id,
  label,
  hideLabel,
  hint,
  error,
  className,
  children,
}: Base & { id: string; error?: string | null; children: React.ReactNode }) {
  return (
    <div className={classes("min-w-0", className)}>
      <label htmlFor={id} className={hideLabel ? "sr-only" : "block text-xs text-faint"}>
        {label}
      </label>
      {children}
      {hint && !error && (
        <p id={`${id}-hint`} className="text-xs text-faint mt-0.5">
          {hint}
        </p>
      )}
      {error && (
        <p id={`${id}-error`} role="alert" className="text-xs text-error mt-0.5">
          {error}
        </p>
      )}
    </div>
  );
}

const described = (id: string, hint: string | undefined, error: string | null | undefined): string | undefined => {
  if (error) return `${id}-error`;
  return hint ? `${id}-hint` : undefined;
};

type TextProps = Base & { value: string; onCommit: (value: string) => void };

/** What is typed until it is committed by leaving the field; Escape takes back what stood there. */
function useTyped({ value, onCommit }: Pick<TextProps, "value" | "onCommit">) {
  const [text, setText] = useState(value);
  useEffect(() => setText(value), [value]);
  return {
    value: text,
    onChange: (e: { target: { value: string } }) => setText(e.target.value),
    onBlur: () => {
      if (text !== value) onCommit(text);
    },
    takeBack: () => setText(value),
  };
}

/** @param suggestions id of a datalist of what is often written there */
export function TextField({
  placeholder,
  suggestions,
  ...props
}: TextProps & { placeholder?: string | undefined; suggestions?: string | undefined }) {
  const id = useId();
  const { takeBack, ...typed } = useTyped(props);
  const { label, hideLabel, hint, className, disabled } = props;
  return (
    <Labelled id={id} label={label} hideLabel={hideLabel} hint={hint} className={className}>
      <Input
        id={id}
        {...typed}
        placeholder={placeholder}
        list={suggestions}
        disabled={disabled}
        aria-describedby={described(id, hint, null)}
        onKeyDown={(e) => {
          if (e.key === "Enter") e.currentTarget.blur();
          if (e.key === "Escape") takeBack();
        }}
      />
    </Labelled>
  );
}

/** Several lines of words, of at most so many characters. */
export function NoteField({ most, ...props }: TextProps & { most: number }) {
  const id = useId();
  const { takeBack, ...typed } = useTyped(props);
  const { label, hideLabel, hint, className, disabled } = props;
  return (
    <Labelled id={id} label={label} hideLabel={hideLabel} hint={hint} className={className}>
      <TextArea
        id={id}
        {...typed}
        rows={3}
        maxLength={most}
        disabled={disabled}
        aria-describedby={described(id, hint, null)}
        onKeyDown={(e) => {
          if (e.key === "Escape") takeBack();
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
  /** What holds while nothing is entered, in base units: it stands there faintly, as it would be written. */
  whenEmpty?: number | undefined;
  placeholder?: string | undefined;
};

/** What a typed text stands for; or what is wrong with it, in words. */
type Reading = { ok: true; value: number | undefined } | { ok: false; why: string };

function readNumber(text: string, props: NumberProps, unit: string | undefined): Reading {
  const { label, quantity, system = "metric", min, max, whole, required } = props;
  if (text.trim() === "") return required ? { ok: false, why: `${label} is needed.` } : { ok: true, value: undefined };
  const typed = arithmetic(text);
  if (typed === null) return { ok: false, why: `"${text}" is not a number. Type a figure or a sum like 3*12.5.` };
  const value = quantity ? fromShown(typed, quantity, system) : typed;
  if (whole && !Number.isInteger(value)) return { ok: false, why: `${label} must be a whole number.` };
  const limit = (base: number): string => showNumber(quantity ? toShown(base, quantity, system) : base, 3);
  const bounds = [min !== undefined && `at least ${limit(min)}`, max !== undefined && `at most ${limit(max)}`].filter(
    Boolean,
  );
  const outside = (min !== undefined && value < min - 1e-9) || (max !== undefined && value > max + 1e-9);
  if (outside) return { ok: false, why: `${label} must be ${bounds.join(" and ")}${unit ? ` ${unit}` : ""}.` };
  return { ok: true, value };
}

const digits = (value: number, count: number): string => Number(value.toPrecision(count)).toString();

/** The fewest digits that are within two parts in a hundred thousand: what was converted does not trail its noise. */
function brief(value: number): string {
  for (let count = 3; count < 7; count++) {
    const text = digits(value, count);
    if (Math.abs(Number(text) - value) <= Math.abs(value) * 2e-5) return text;
  }
  return digits(value, 7);
}

/** Says its unit and range and takes arithmetic; a value out of range is refused with its range, and nothing changes. */
export function NumberField(props: NumberProps) {
  const { label, value, onCommit, quantity, system = "metric", min, max, hideLabel, disabled, hint, whenEmpty } = props;
  const id = useId();
  const convert = (base: number): number => (quantity ? toShown(base, quantity, system) : base);
  const write = (base: number): string => (convert(base) === base ? digits(base, 7) : brief(convert(base)));
  const shown = value === undefined ? "" : write(value);
  const placeholder = whenEmpty === undefined ? props.placeholder : significant(convert(whenEmpty));
  const [text, setText] = useState(shown);
  const [error, setError] = useState<string | null>(null);
  useEffect(() => {
    setText(shown);
    setError(null);
  }, [shown]);
  const unit = quantity ? unitLabel(quantity, system) : props.unit;
  const limit = (base: number): string => showNumber(quantity ? toShown(base, quantity, system) : base, 3);
  const commit = (): void => {
    setError(null);
    if (text === shown) return;
    const read = readNumber(text, props, unit);
    if (read.ok) onCommit(read.value);
    else setError(read.why);
  };
  const range =
    min !== undefined && max !== undefined ? `${limit(min)} to ${limit(max)}${unit ? ` ${unit}` : ""}` : undefined;
  return (
    <Labelled
      id={id}
      label={unit && !hideLabel ? `${label}, ${unit}` : label}
      hideLabel={hideLabel}
      hint={hint}
      error={error}
      className={props.className}
    >
      <Input
        id={id}
        className="text-right"
        inputMode="decimal"
        value={text}
        disabled={disabled}
        placeholder={placeholder}
        aria-invalid={error !== null}
        aria-describedby={described(id, hint, error)}
        title={range}
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
  className,
}: Base & { value: T; options: readonly (readonly [T, string])[]; onCommit: (value: T) => void }) {
  const id = useId();
  return (
    <Labelled id={id} label={label} hideLabel={hideLabel} hint={hint} className={className}>
      <Select
        id={id}
        value={value}
        disabled={disabled}
        aria-describedby={described(id, hint, null)}
        onChange={(e) => onCommit(e.target.value as T)}
      >
        {options.map(([v, words]) => (
          <option key={v} value={v}>
            {words}
          </option>
        ))}
      </Select>
    </Labelled>
  );
}

export function TickField({
  label,
  checked,
  onCommit,
  disabled,
}: {
  label: React.ReactNode;
  checked: boolean;
  onCommit: (checked: boolean) => void;
  disabled?: boolean | undefined;
}) {
  return (
    <label className="inline-flex items-center gap-2 min-h-8 cursor-pointer">
      <Checkbox checked={checked} disabled={disabled} onChange={(e) => onCommit(e.target.checked)} />
      <span>{label}</span>
    </label>
  );
}
