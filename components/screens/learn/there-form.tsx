import { DateField } from "@/components/kit/date-field";
import { TickField } from "@/components/kit/fields";
import { Caution } from "@/components/kit/notice";
import { TimeField } from "@/components/kit/time-field";
import { addDays, instantOf } from "@/core/dates/wall-time";
import type { SiteFile } from "@/core/site-file/schema";

/** When the controllers learn: at once, or from an hour of the site's own clock on; past `to` none is begun. */
export type ThereWhen = { later: boolean; date: string; from: string; to?: string };

/** The same as instants. */
export function instantsOf({ site }: SiteFile, { later, date, from, to }: ThereWhen): { from?: string; to?: string } {
  const iso = (day: string, clock: string): string =>
    new Date(instantOf(site.timeZone, day, clock) * 1000).toISOString();
  if (!later) return {};
  return {
    from: iso(date, from),
    ...(to ? { to: iso(to <= from ? addDays(date, 1) : date, to) } : {}),
  };
}

/** Learning at the controllers themselves: the same test as on the bench, on water that flows. */
export function ThereForm({
  when,
  onWhen,
  running,
}: {
  when: ThereWhen;
  onWhen: (when: ThereWhen) => void;
  running: boolean;
}) {
  return (
    <>
      <Caution>
        Valves open one after the other for some minutes each: nobody in a valve box or a pump house, and no hose in
        use.
      </Caution>
      <p className="text-sm text-faint">
        The controllers open one station at a time by themselves and wait with their programs meanwhile; what they read
        comes back and becomes proposals. Nobody needs to stay connected.
      </p>
      <TickField label="at a set hour" checked={when.later} onCommit={(later) => onWhen({ ...when, later })} />
      {when.later && (
        <div className="flex flex-wrap gap-2">
          <DateField
            label="Date"
            required
            disabled={running}
            className="w-44"
            value={when.date}
            onCommit={(v) => v && onWhen({ ...when, date: v })}
          />
          <TimeField
            label="From"
            required
            disabled={running}
            value={when.from}
            onCommit={(v) => v && onWhen({ ...when, from: v })}
          />
          <TimeField
            label="None past"
            disabled={running}
            value={when.to}
            onCommit={(v) => {
              const { to: _, ...rest } = when;
              onWhen(v ? { ...rest, to: v } : rest);
            }}
          />
        </div>
      )}
    </>
  );
}
