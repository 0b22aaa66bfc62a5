"use client";
import { useEffect, useId, useState } from "react";
import { laterBy } from "@/core/dates/later-by";
import { readTime } from "./dates";
import { Labelled } from "./fields";
import { Input } from "./inputs";

/** A time of day on the clock of 24 hours: 21:30, 2130 or 9.30 pm are understood; the arrows step by a quarter of an hour. */
export function TimeField({
  label,
  value,
  onCommit,
  hideLabel,
  disabled,
  required,
  hint,
  className,
}: {
  label: string;
  value: string | undefined;
  onCommit: (value: string | undefined) => void;
  hideLabel?: boolean | undefined;
  disabled?: boolean | undefined;
  /** An emptied field keeps what it had. */
  required?: boolean | undefined;
  hint?: string | undefined;
  className?: string | undefined;
}) {
  const id = useId();
  const shown = value ?? "";
  const [text, setText] = useState(shown);
  const [error, setError] = useState<string | null>(null);
  useEffect(() => {
    setText(shown);
    setError(null);
  }, [shown]);
  const take = (time: string): void => {
    setError(null);
    setText(time);
    if (time !== value) onCommit(time);
  };
  const commit = (): void => {
    if (text === shown) {
      setError(null);
      return;
    }
    if (text.trim() === "") {
      if (required) setText(shown);
      else onCommit(undefined);
      return;
    }
    const time = readTime(text);
    if (time === null) setError(`"${text}" is not a time of day. Write it like 21:30.`);
    else take(time);
  };
  return (
    <Labelled id={id} label={label} hideLabel={hideLabel} hint={hint} error={error} className={className ?? "w-20"}>
      <Input
        id={id}
        value={text}
        inputMode="numeric"
        placeholder="HH:MM"
        disabled={disabled}
        aria-invalid={error !== null}
        aria-describedby={error ? `${id}-error` : undefined}
        onChange={(e) => {
          setText(e.target.value);
          if (/^([01]\d|2[0-3]):[0-5]\d$/.test(e.target.value)) take(e.target.value);
        }}
        onBlur={commit}
        onKeyDown={(e) => {
          if (e.key === "Enter") commit();
          const step = { ArrowUp: 15, ArrowDown: -15 }[e.key];
          const from = readTime(text) ?? value;
          if (step === undefined || from === undefined) return;
          e.preventDefault();
          take(laterBy(from, step));
        }}
      />
    </Labelled>
  );
}
