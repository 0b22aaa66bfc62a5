"use client";
import { useConventions } from "@/components/kit/conventions";
import { Select, Slider } from "@/components/kit/inputs";
import { Button } from "@/components/kit/button";
import { startsOn } from "@/core/site-file/starts";
import { useMemo, useState } from "react";
import { useNightOf } from "@/components/draft/use-night-of";
import { useNight, useWorkspace } from "@/components/draft/site-draft";
import { ceilings } from "@/core/ceilings/ceilings";
import { stoppedByWeather } from "@/core/season/weather-stop";
import type { SiteFile } from "@/core/site-file/schema";
import { showNumber, showQuantity } from "@/core/units/units";

type Change = { percent: number; out: string; lowered: string; to: number; start: string; stop: string };
const NONE: Change = { percent: 100, out: "", lowered: "", to: 80, start: "", stop: "" };

/** The site as it would be; nothing of it is kept unless someone takes the seasonal percent. */
export function changedBy(file: SiteFile, c: Change): SiteFile {
  const own = new Map(ceilings(file).map((x) => [x.id, x.ceilingLpm]));
  const lower = <T extends { id: string; ceilingLpm?: number | undefined }>(e: T): T => {
    const now = own.get(e.id);
    return e.id === c.lowered && now !== null && now !== undefined ? { ...e, ceilingLpm: (now * c.to) / 100 } : e;
  };
  const weathered = c.stop ? stoppedByWeather(file, [c.stop]).site : file;
  return {
    ...weathered,
    site: { ...file.site, seasonalPercent: ((file.site.seasonalPercent ?? 100) * c.percent) / 100 },
    sources: file.sources.map((s) => (s.id === c.out ? { ...s, enabled: false } : s)),
    pocs: file.pocs.map((p) => lower(p.id === c.out ? { ...p, lockedOut: true } : p)),
    mainlines: file.mainlines.map(lower),
    programs: weathered.programs.map((p) =>
      p.id === c.start ? { ...p, starts: [...p.starts, fourHoursLater(startsOn(p).at(-1) ?? "20:00")] } : p,
    ),
  };
}

function fourHoursLater(hhmm: string): string {
  return `${String((Number(hhmm.slice(0, 2)) + 4) % 24).padStart(2, "0")}${hhmm.slice(2)}`;
}

/** Turn one thing and read what the night would do. */
export function WhatIf() {
  const { draft, date, units, edit, canEdit } = useWorkspace("draft", "date", "units", "edit", "canEdit");
  const { clock } = useConventions();
  const night = useNight();
  const [change, setChange] = useState<Change>(NONE);
  const site = useMemo(() => changedBy(draft, change), [draft, change]);
  const idle = JSON.stringify(change) === JSON.stringify(NONE);
  const then = useNightOf(idle ? null : site, date);
  const stopped = useMemo(() => (change.stop ? stoppedByWeather(draft, [change.stop]) : null), [draft, change.stop]);
  const put = (values: Partial<Change>): void => setChange({ ...change, ...values });
  const month = Number(date.slice(5, 7)) - 1;
  const budget = draft.sources.reduce((sum, s) => sum + (s.monthlyBudgetM3?.[month] ?? 0), 0);
  return (
    <section aria-label="What if" className="border-y border-base-300 py-2 mb-3">
      <div className="flex flex-wrap items-end gap-x-5 gap-y-2">
        <h3 className="text-lg self-center">What if</h3>
        <label className="w-56">
          <span className="block text-sm text-faint">seasonal percent × {change.percent} %</span>
          <Slider
            className="w-full accent-[var(--water)]"
            min={20}
            max={200}
            step={5}
            value={change.percent}
            onChange={(e) => put({ percent: Number(e.target.value) })}
          />
        </label>
        <label className="w-52">
          <span className="block text-sm text-faint">out of service</span>
          <Select value={change.out} onChange={(e) => put({ out: e.target.value })}>
            <option value="">nothing</option>
            {[...draft.sources, ...draft.pocs].map((e) => (
              <option key={e.id} value={e.id}>
                {e.name}
              </option>
            ))}
          </Select>
        </label>
        <label className="w-52">
          <span className="block text-sm text-faint">ceiling lowered to {change.to} %</span>
          <Select value={change.lowered} onChange={(e) => put({ lowered: e.target.value })}>
            <option value="">none</option>
            {[...draft.pocs, ...draft.mainlines].map((e) => (
              <option key={e.id} value={e.id}>
                {e.name}
              </option>
            ))}
          </Select>
        </label>
        {change.lowered !== "" && (
          <label className="w-32">
            <span className="sr-only">Ceiling lowered to, percent</span>
            <Slider
              className="w-full accent-[var(--water)]"
              min={30}
              max={95}
              step={5}
              value={change.to}
              onChange={(e) => put({ to: Number(e.target.value) })}
            />
          </label>
        )}
        <label className="w-52">
          <span className="block text-sm text-faint">one more start of</span>
          <Select value={change.start} onChange={(e) => put({ start: e.target.value })}>
            <option value="">none</option>
            {draft.programs.map((p) => (
              <option key={p.id} value={p.id}>
                {p.name}
              </option>
            ))}
          </Select>
        </label>
        {(draft.weatherInputs ?? []).length > 0 && (
          <label className="w-52">
            <span className="block text-sm text-faint">an input says stop</span>
            <Select value={change.stop} onChange={(e) => put({ stop: e.target.value })}>
              <option value="">none</option>
              {draft.weatherInputs?.map((w) => (
                <option key={w.id} value={w.id}>
                  {w.name}
                  {w.bypassed ? " (bypassed)" : ""}
                </option>
              ))}
            </Select>
          </label>
        )}
        {!idle && (
          <Button rank="quiet" onClick={() => setChange(NONE)}>
            As it is
          </Button>
        )}
        {canEdit && change.percent !== 100 && (
          <Button
            onClick={() => {
              edit((f) => ({
                ...f,
                site: {
                  ...f.site,
                  seasonalPercent: Number((((f.site.seasonalPercent ?? 100) * change.percent) / 100).toFixed(2)),
                },
              }));
              put({ percent: 100 });
            }}
          >
            Take {showNumber(((draft.site.seasonalPercent ?? 100) * change.percent) / 100, 1)} % for the site
          </Button>
        )}
      </div>
      <p role="status" className="mt-1">
        {idle && (
          <span className="text-faint">
            Move or choose something: the end, the shortfall and the water answer at once. Nothing of it is kept.
          </span>
        )}
        {!idle && !(then && night) && "Working it out…"}
        {!idle && then && night && (
          <>
            Ends <strong>{clock(then.plan.finish, date)}</strong> (now {clock(night.plan.finish, date)}) ·{" "}
            <span className={then.summary.shortfallMin > 0 ? "text-error font-semibold" : ""}>
              {showNumber(then.summary.shortfallMin)} min unwatered
            </span>{" "}
            (now {showNumber(night.summary.shortfallMin)}) · {showQuantity(then.summary.litres, "volume", units)} (now{" "}
            {showQuantity(night.summary.litres, "volume", units)})
            {budget > 0
              ? ` · thirty such nights ${showQuantity((then.summary.litres * 30) / 1000, "bulk", units)} of the month's ${showQuantity(budget, "bulk", units)}`
              : ""}
            {stopped &&
              (stopped.stopped.length === 0
                ? " · no station stops: the input is bypassed or all ignore it"
                : ` · ${stopped.stopped.length} stations stop, ${stopped.waterOn.length} water on`)}
          </>
        )}
      </p>
    </section>
  );
}
