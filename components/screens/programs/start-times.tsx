"use client";
import { patchProgram } from "@/components/draft/patch-element";
import { Plus, X } from "lucide-react";
import { useWorkspace } from "@/components/draft/site-draft";
import { Button, IconButton } from "@/components/kit/button";
import { Toggle } from "@/components/kit/inputs";
import { Mark } from "@/components/kit/notice";
import { TimeField } from "@/components/kit/time-field";
import { isDue } from "@/core/calendar/due";
import { addDays, isSkippedWallTime } from "@/core/dates/wall-time";
import type { Program } from "@/core/site-file/schema";
import { isOn, type Start, startAt, startsOn } from "@/core/site-file/starts";

const moved = (start: Start, at: string): Start => (isOn(start) ? at : { at, off: true });
const turned = (start: Start): Start => (isOn(start) ? { at: startAt(start), off: true } : startAt(start));

/** When it starts; each may be switched off and kept for another season. */
export function StartTimes({ program }: { program: Program }) {
  const { draft, edit, canEdit, date } = useWorkspace("draft", "edit", "canEdit", "date");
  const put = (starts: Start[]): void => edit(patchProgram(program.id, { starts }));
  const change = (i: number, start: Start): void => put(program.starts.map((s, n) => (n === i ? start : s)));
  const skipped = startsOn(program).filter((s) =>
    Array.from({ length: 366 }, (_, i) => addDays(date, i)).some(
      (d) => isDue(program, d) && isSkippedWallTime(draft.site.timeZone, d, s),
    ),
  );
  return (
    <fieldset>
      <legend className="text-xs text-faint">Start times</legend>
      <ul className="flex flex-wrap items-center gap-x-4 gap-y-1">
        {program.starts.map((s, i) => (
          // biome-ignore lint/suspicious/noArrayIndexKey: a start is its place in the list
          <li key={`${i}-${program.starts.length}`} className="flex items-center gap-1">
            <TimeField
              label={`Start ${i + 1}`}
              hideLabel
              required
              value={startAt(s)}
              disabled={!canEdit}
              onCommit={(v) => v && change(i, moved(s, v))}
            />
            <Toggle
              aria-label={`Start ${startAt(s)} is on`}
              title={isOn(s) ? "on; switched off it is kept" : "switched off"}
              checked={isOn(s)}
              disabled={!canEdit}
              onChange={() => change(i, turned(s))}
            />
            {canEdit && (
              <IconButton
                label={`Remove start ${startAt(s)}`}
                icon={X}
                onClick={() => put(program.starts.filter((_, n) => n !== i))}
              />
            )}
          </li>
        ))}
        {canEdit && (
          <li>
            <Button icon={Plus} onClick={() => put([...program.starts, "04:00"])}>
              Start
            </Button>
          </li>
        )}
      </ul>
      {skipped.length > 0 && (
        <p className="mt-1 text-warning">
          <Mark tone="caution" /> {skipped.join(", ")} does not exist in the night when the clocks go forward; the
          program then starts at the first minute after the gap.
        </p>
      )}
    </fieldset>
  );
}
