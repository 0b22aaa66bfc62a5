"use client";
import { Calendar } from "lucide-react";
import dynamic from "next/dynamic";
import { useEffect, useId, useRef, useState } from "react";
import { IconButton } from "./button";
import { classes } from "./classes";
import { useConventions } from "./conventions";
import { Labelled } from "./fields";
import { Input } from "./inputs";

/** Loaded when one is first opened. */
const CalendarOf = dynamic(() => import("./calendar").then((m) => m.CalendarOf), { ssr: false });

/** A date, typed as the site writes dates (or as 2026-11-26) or chosen on a calendar. `value` and what is handed back are `YYYY-MM-DD`. */
export function DateField({
  label,
  value,
  onCommit,
  hideLabel,
  disabled,
  required,
  hint,
  className,
  min,
  max,
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
  min?: string | undefined;
  max?: string | undefined;
}) {
  const id = useId();
  const { date: write, readDate } = useConventions();
  const shown = value === undefined ? "" : write(value);
  const [text, setText] = useState(shown);
  const [error, setError] = useState<string | null>(null);
  const [open, setOpen] = useState(false);
  const box = useRef<HTMLDivElement>(null);
  useEffect(() => {
    setText(shown);
    setError(null);
  }, [shown]);
  useEffect(() => {
    if (!open) return;
    const away = (e: PointerEvent): void => {
      if (!box.current?.contains(e.target as Node)) setOpen(false);
    };
    document.addEventListener("pointerdown", away);
    return () => document.removeEventListener("pointerdown", away);
  }, [open]);
  const wrong = (iso: string): string | null => {
    if (min !== undefined && iso < min) return `${label} must be ${write(min)} or later.`;
    return max !== undefined && iso > max ? `${label} must be ${write(max)} or earlier.` : null;
  };
  const take = (iso: string): void => {
    const why = wrong(iso);
    setError(why);
    if (why === null && iso !== value) onCommit(iso);
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
    const iso = readDate(text);
    if (iso === null) setError(`"${text}" is not a date. Write it like ${write("2026-11-26")}.`);
    else take(iso);
  };
  return (
    <Labelled id={id} label={label} hideLabel={hideLabel} hint={hint} error={error} className={className}>
      {/* biome-ignore lint/a11y/noStaticElementInteractions: Escape is heard from the parts inside */}
      <div
        ref={box}
        className={classes("dropdown w-full", open && "dropdown-open")}
        onKeyDown={(e) => {
          if (e.key === "Escape" && open) {
            e.stopPropagation();
            setOpen(false);
          }
        }}
      >
        <div className="join w-full">
          <Input
            id={id}
            className="join-item"
            value={text}
            disabled={disabled}
            placeholder={required ? undefined : "no date"}
            aria-invalid={error !== null}
            aria-describedby={error ? `${id}-error` : undefined}
            onChange={(e) => {
              setText(e.target.value);
              if (/^\d{4}-\d{2}-\d{2}$/.test(e.target.value) && readDate(e.target.value)) take(e.target.value);
            }}
            onBlur={commit}
            onKeyDown={(e) => {
              if (e.key === "Enter") commit();
              if (e.key === "ArrowDown" && e.altKey) setOpen(true);
            }}
          />
          <IconButton
            label={`${label}: calendar`}
            icon={Calendar}
            rank="plain"
            className="join-item"
            disabled={disabled}
            aria-expanded={open}
            onClick={() => setOpen(!open)}
          />
        </div>
        {open && (
          <div className="dropdown-content z-40 mt-1 border border-base-content bg-base-100 p-2">
            <CalendarOf
              value={value}
              onChoose={(chosen) => {
                setOpen(false);
                if (chosen !== undefined) take(chosen);
              }}
            />
          </div>
        )}
      </div>
    </Labelled>
  );
}
