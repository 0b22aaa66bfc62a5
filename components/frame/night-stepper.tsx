"use client";
import { ChevronLeft, ChevronRight } from "lucide-react";
import { IconButton } from "@/components/kit/button";
import { DateField } from "@/components/kit/date-field";
import { addDays } from "@/core/dates/wall-time";

/** The night that is looked at: the one before, a date, the one after. */
export function NightStepper({ date, onDate }: { date: string; onDate: (date: string) => void }) {
  return (
    <>
      <IconButton label="Night before" icon={ChevronLeft} onClick={() => onDate(addDays(date, -1))} />
      <DateField label="Night of" hideLabel required value={date} className="w-40" onCommit={(v) => v && onDate(v)} />
      <IconButton label="Night after" icon={ChevronRight} onClick={() => onDate(addDays(date, 1))} />
    </>
  );
}
