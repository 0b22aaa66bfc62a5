"use client";
import { DayTicks } from "@/components/kit/window-list";
import { Plus } from "lucide-react";
import { TimeField } from "@/components/kit/time-field";
import { Button } from "@/components/kit/button";

import { clean, patched, type Patch } from "@/core/site-file/patch";
import { NumberField } from "@/components/kit/fields";

import { useWorkspace } from "@/components/draft/site-draft";
import { WEEKDAYS } from "@/core/dates/wall-time";
import { waterworks } from "@/core/network/waterworks";
import type { Poc } from "@/core/site-file/schema";
import { LITRES_PER_US_GALLON, showQuantity } from "@/core/units/units";

type Hours = NonNullable<Poc["handWatering"]>[number];

/** Hours in which someone may draw water by hand at a connection, and how much: its master valve is opened for them. */
export function HandWateringPanel() {
  const { draft, edit, canEdit, units } = useWorkspace("draft", "edit", "canEdit", "units");
  const count = draft.pocs.reduce((sum, p) => sum + (p.handWatering?.length ?? 0), 0);
  const w = waterworks(draft);
  const put = (poc: Poc, hours: Hours[]): void =>
    edit((f) => ({
      ...f,
      pocs: f.pocs.map((p) =>
        p.id === poc.id ? clean({ ...p, handWatering: hours.length > 0 ? hours : undefined }) : p,
      ),
    }));
  return (
    <section aria-label="Hand watering" className="max-w-5xl">
      <p className="font-semibold">
        {count === 0
          ? "No hours, so any flow while nothing runs is off schedule"
          : `${count} span${count === 1 ? "" : "s"} of hours`}
      </p>
      <p className="mb-2 max-w-prose text-faint">
        In these hours the master valve is opened for a hose and that much flow is not off schedule. While stations run,
        it is kept out of the ceiling and added to the high limit, so a break of that size passes unseen then; learning
        waits until they are over.
      </p>
      {draft.pocs.map((poc, i) => {
        const hours = poc.handWatering ?? [];
        const change = (n: number, values: Patch<Hours>): void =>
          put(
            poc,
            hours.map((h, k) => (k === n ? patched(h, values) : h)),
          );
        const most = Math.max(0, ...hours.map((h) => h.flowLpm));
        const ceiling = w.pocCeiling[i] as number;
        return (
          <fieldset key={poc.id} className="border-b border-base-300 py-1" aria-label={`Hand watering at ${poc.name}`}>
            <legend className="font-semibold">{poc.name}</legend>
            {hours.map((h, n) => (
              // biome-ignore lint/suspicious/noArrayIndexKey: each is its place in the list
              <div key={n} className="flex flex-wrap items-end gap-3 py-1">
                <DayTicks
                  label="Days"
                  days={h.window.days ?? [...WEEKDAYS]}
                  disabled={!canEdit}
                  onCommit={(days) =>
                    days.length > 0 &&
                    change(n, { window: clean({ ...h.window, days: days.length === 7 ? undefined : days }) })
                  }
                />
                <TimeField
                  label="from"
                  required
                  value={h.window.from}
                  disabled={!canEdit}
                  onCommit={(v) => v && change(n, { window: { ...h.window, from: v } })}
                />
                <TimeField
                  label="to"
                  required
                  value={h.window.to}
                  disabled={!canEdit}
                  onCommit={(v) => v && change(n, { window: { ...h.window, to: v } })}
                />
                <div className="w-36">
                  <NumberField
                    label="Flow allowed"
                    value={h.flowLpm}
                    quantity="flow"
                    system={units}
                    min={0}
                    max={100_000}
                    required
                    disabled={!canEdit}
                    onCommit={(v) => change(n, { flowLpm: v ?? 0 })}
                  />
                </div>
                {canEdit && (
                  <Button
                    onClick={() =>
                      put(
                        poc,
                        hours.filter((_, k) => k !== n),
                      )
                    }
                  >
                    Remove
                  </Button>
                )}
              </div>
            ))}
            {hours.length > 0 && (
              <p className="text-sm">
                In its hours the high limit is {showQuantity(most, "flow", units)} wider
                {Number.isFinite(ceiling)
                  ? `, and ${showQuantity(Math.max(0, ceiling - most), "flow", units)} of its ${showQuantity(ceiling, "flow", units)} are left to stations`
                  : ""}
                .{most > 0 && most >= ceiling ? " Nothing is left to stations then." : ""}
              </p>
            )}
            {canEdit && (
              <Button
                icon={Plus}
                className="my-1"
                onClick={() =>
                  put(poc, [
                    ...hours,
                    {
                      window: { from: "07:00", to: "15:00" },
                      flowLpm: units === "us" ? 10 * LITRES_PER_US_GALLON : 40,
                    },
                  ])
                }
              >
                hours
              </Button>
            )}
          </fieldset>
        );
      })}
    </section>
  );
}
