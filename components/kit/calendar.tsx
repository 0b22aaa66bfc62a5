"use client";
import { DayPicker } from "react-day-picker";
import { useLanguage } from "./conventions";
import { asDate, asIso, LOCALES } from "./dates";

const LOOKS = {
  root: "react-day-picker",
};

/** A month to choose a day from; `value` and what is handed back are `YYYY-MM-DD`. */
export function CalendarOf({
  value,
  onChoose,
}: {
  value: string | undefined;
  onChoose: (value: string | undefined) => void;
}) {
  const language = useLanguage();
  return (
    <DayPicker
      locale={LOCALES[language]}
      mode="single"
      autoFocus
      weekStartsOn={1}
      classNames={LOOKS}
      {...(value ? { selected: asDate(value), defaultMonth: asDate(value) } : {})}
      onSelect={(date) => onChoose(date && asIso(date))}
    />
  );
}
