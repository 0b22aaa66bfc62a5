"use client";
import { useId, useState } from "react";
import { useWorkspace } from "@/components/draft/site-draft";
import { Button } from "@/components/kit/button";
import { Labelled } from "@/components/kit/fields";
import { Input } from "@/components/kit/inputs";
import { hoursApart, movedByZone } from "@/core/calendar/zone-change";
import { localDate } from "@/core/dates/wall-time";

const ZONES = Intl.supportedValuesOf("timeZone");
const hoursWords = (hours: number): string => {
  const size = Math.abs(hours);
  return `${Number.isInteger(size) ? size : size.toFixed(2)} h ${hours < 0 ? "earlier" : "later"}`;
};

/** The site's time zone, and what another one would move, seen before it is taken. */
export function ZoneChange({ onZone }: { onZone: (zone: string) => void }) {
  const id = useId();
  const { draft, canEdit } = useWorkspace("draft", "canEdit");
  const now = draft.site.timeZone;
  const [asked, setAsked] = useState(now);
  const known = ZONES.includes(asked);
  return (
    <>
      <div className="flex flex-wrap items-end gap-3">
        <Labelled
          id={id}
          label="Time zone"
          className="w-72"
          error={known || asked === now ? null : "Choose one of the list, like Europe/Vienna."}
        >
          <Input
            id={id}
            list={`${id}-zones`}
            value={asked}
            disabled={!canEdit}
            aria-invalid={!known && asked !== now}
            onChange={(e) => setAsked(e.target.value)}
          />
          <datalist id={`${id}-zones`}>
            {ZONES.map((z) => (
              <option key={z} value={z} />
            ))}
          </datalist>
        </Labelled>
        {asked !== now && known && (
          <>
            <Button onClick={() => onZone(asked)}>Take this zone</Button>
            <Button rank="quiet" onClick={() => setAsked(now)}>
              Leave it at {now}
            </Button>
          </>
        )}
      </div>
      {asked !== now && known && <Moves zone={asked} />}
    </>
  );
}

/** What moves: programs keep their clocks, and each moment of them comes at another time. */
function Moves({ zone }: { zone: string }) {
  const { draft } = useWorkspace("draft");
  const date = localDate(draft.site.timeZone, Date.now() / 1000);
  const moved = movedByZone(draft, zone, date);
  const apart = hoursApart(draft.site.timeZone, zone, date);
  return (
    <div className="mt-2 max-w-prose" role="status">
      {moved.length === 0 ? (
        <p>Nothing moves tonight: both clocks show the same.</p>
      ) : (
        <>
          <p>
            Start times and windows keep their clocks; each comes at another moment. The log, alarms and readings are
            shown on the new clock, and what happened stays when it happened.
          </p>
          <ul className="mt-1 list-disc pl-6">
            {moved.map((m) => (
              <li key={`${m.program} ${m.start}`}>
                {m.program}, {m.start}: {hoursWords(m.hours)} than now
              </li>
            ))}
          </ul>
        </>
      )}
      {apart.now !== apart.inHalfAYear && (
        <p className="mt-1 text-warning">
          In half a year the clocks are {hoursWords(-apart.inHalfAYear)} apart instead: the zones change to summer time
          on other days, or one does not.
        </p>
      )}
      <p className="mt-1">Controllers keep their own clock: send them their settings again after saving.</p>
    </div>
  );
}
