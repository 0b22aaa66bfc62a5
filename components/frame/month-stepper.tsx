"use client";
import { ChevronLeft, ChevronRight } from "lucide-react";
import { Button, IconButton } from "@/components/kit/button";
import { useConventions } from "@/components/kit/conventions";
import { addMonths } from "@/core/dates/wall-time";

/** A month, the one before and the one after. @param month YYYY-MM, as all are @param first @param last where it ends, if it does */
export function MonthStepper({
  month,
  today,
  first,
  last,
  onMonth,
}: {
  month: string;
  /** The one it is now. */
  today: string;
  first?: string;
  last?: string;
  onMonth: (month: string) => void;
}) {
  const { month: name } = useConventions();
  const by = (months: number): void => onMonth(addMonths(`${month}-01`, months).slice(0, 7));
  return (
    <div className="flex items-center gap-1">
      <IconButton
        label="The month before"
        icon={ChevronLeft}
        disabled={first !== undefined && month <= first}
        onClick={() => by(-1)}
      />
      <span className="w-24 text-center font-semibold" aria-live="polite">
        {name(month)}
      </span>
      <IconButton
        label="The next month"
        icon={ChevronRight}
        disabled={last !== undefined && month >= last}
        onClick={() => by(1)}
      />
      {month !== today && (
        <Button rank="quiet" onClick={() => onMonth(today)}>
          Today
        </Button>
      )}
    </div>
  );
}

/** Whether a text of an address is a month. */
export const isMonth = (text: string): boolean => /^\d{4}-(0[1-9]|1[0-2])$/.test(text);
