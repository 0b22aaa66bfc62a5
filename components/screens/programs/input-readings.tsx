"use client";
import { X, Plus } from "lucide-react";
import { TimeField } from "@/components/kit/time-field";
import { Button } from "@/components/kit/button";
import { patched, type Patch } from "@/core/site-file/patch";
import { NumberField } from "@/components/kit/fields";
import { useWorkspace } from "@/components/draft/site-draft";
import type { SiteFile } from "@/core/site-file/schema";
import { inputFromShown, inputToShown, inputUnit } from "@/core/calendar/input-units";
import { showNumber } from "@/core/units/units";

type Input = NonNullable<SiteFile["weatherInputs"]>[number];
type Reading = NonNullable<Input["readings"]>[number];

/** Simulated readings of one input on the date shown: the night and the bench answer to them. */
export function InputReadings({
  input,
  onCommit,
}: {
  input: Input;
  onCommit: (readings: Reading[] | undefined) => void;
}) {
  const { canEdit, units, date } = useWorkspace("canEdit", "units", "date");
  const all = input.readings ?? [];
  const today = all.filter((r) => r.at.startsWith(date));
  const others = all.length - today.length;
  const unit = inputUnit(input.kind, units);
  const put = (list: Reading[]): void => {
    const next = [...all.filter((r) => !r.at.startsWith(date)), ...list].sort((a, b) => a.at.localeCompare(b.at));
    onCommit(next.length > 0 ? next : undefined);
  };
  const change = (i: number, values: Patch<Reading>): void =>
    put(today.map((r, n) => (n === i ? patched(r, values) : r)));
  const before = all.filter((r) => r.at < `${date}T00:00`).at(-1);
  return (
    <div
      role="group"
      aria-label={`Simulated readings of ${input.name}`}
      className="basis-full flex flex-wrap items-end gap-x-4 gap-y-1 pb-1"
    >
      <span className="text-faint pb-1">
        {date}
        {before ? `, before it ${showNumber(inputToShown(before.value, unit), 1)} ${unit.label}` : ""}
      </span>
      {today.map((r, i) => (
        // biome-ignore lint/suspicious/noArrayIndexKey: each is its place in the list
        <span key={`${i}-${today.length}`} className="inline-flex items-end gap-1">
          <TimeField
            label={`Reading ${i + 1} of ${input.name}: at`}
            hideLabel
            required
            value={r.at.slice(11)}
            disabled={!canEdit}
            onCommit={(v) => v && change(i, { at: `${date}T${v}` })}
          />
          <span className="w-20">
            <NumberField
              hideLabel
              label={`Reading ${i + 1} of ${input.name}, ${unit.label}`}
              unit={unit.label}
              required
              value={Number(inputToShown(r.value, unit).toPrecision(6))}
              disabled={!canEdit}
              onCommit={(v) => v !== undefined && change(i, { value: inputFromShown(v, unit) })}
            />
          </span>
          <span className="pb-1">{unit.label}</span>
          {canEdit && (
            <Button
              rank="quiet"
              aria-label={`Remove reading ${i + 1} of ${input.name}`}
              onClick={() => put(today.filter((_, n) => n !== i))}
            >
              <X className="size-4" aria-hidden />
            </Button>
          )}
        </span>
      ))}
      {canEdit && (
        <Button
          icon={Plus}
          onClick={() =>
            put([
              ...today,
              {
                at: `${date}T${nextTime(today)}`,
                value: today.at(-1)?.value ?? before?.value ?? (input.kind === "switch" ? 0 : 20),
              },
            ])
          }
        >
          reading
        </Button>
      )}
      <span className="text-sm text-faint pb-1">
        Simulated; each holds until the next, at most a day.{others > 0 ? ` ${others} on other days.` : ""}
      </span>
    </div>
  );
}

function nextTime(today: Reading[]): string {
  const last = today.at(-1)?.at.slice(11);
  return last ? `${String(Math.min(23, Number(last.slice(0, 2)) + 1)).padStart(2, "0")}${last.slice(2)}` : "20:00";
}
