"use client";
import { TimeField } from "@/components/kit/time-field";
import { DateField } from "@/components/kit/date-field";
import { Button } from "@/components/kit/button";

import { Table } from "@/components/kit/table";
import { type Start, startAt, startsOn } from "@/core/site-file/starts";
import type { Patch } from "@/core/site-file/patch";
import { useMemo, useState } from "react";
import { ChoiceField, NumberField, TextField, TickField } from "@/components/kit/fields";
import { MonthsField } from "@/components/kit/months-field";
import { DayTicks, WindowList } from "@/components/kit/window-list";
import { useWorkspace } from "@/components/draft/workspace";
import { isDue, isHeld } from "@/core/calendar/due";
import { adjustedSeconds } from "@/core/calendar/run-time";
import { addDays, isSkippedWallTime, weekdayOf } from "@/core/dates/wall-time";
import { DAY_RULES, DAY_TYPES } from "@/core/dates/day-rules";
import { check } from "@/core/check/check";
import { expectedFlow } from "@/core/site-file/expected-flow";
import type { Program } from "@/core/site-file/schema";
import { showNumber, showQuantity } from "@/core/units/units";
import { AllPrograms } from "./all-programs";
import { EstablishPanel } from "./establish-panel";
import { InputRules } from "./input-rules";
import { OneOffPanel } from "./one-off-panel";
import { SetupSheetView } from "./setup-sheet";
import { WeatherInputs } from "./weather-inputs";
import { WeekGrid } from "../../pictures/week-grid";
import { YearWater } from "./year-water";
import { addProgram, moveRun, patchProgram, removeProgram, setMinutes } from "../../draft/program-edits";

export function ProgramsScreen() {
  const { draft, edit, canEdit, date } = useWorkspace();
  const [chosen, setChosen] = useState<string | null>(null);
  const [sheet, setSheet] = useState(false);
  const [once, setOnce] = useState(false);
  const [calendar, setCalendar] = useState(false);
  const program = draft.programs.find((p) => p.id === chosen) ?? draft.programs[0];
  const add = (): void => {
    const made = addProgram(draft);
    edit(() => made.file);
    setChosen(made.id);
  };
  return (
    <>
      <div className="flex flex-wrap items-center gap-2 mb-3">
        <h2 className="text-xl mr-3">Programs</h2>
        <div role="tablist" aria-label="Programs" className="flex flex-wrap gap-1">
          {draft.programs.map((p) => (
            <Button
              rank="main"
              key={p.id}
              role="tab"
              aria-selected={p.id === program?.id}
              className={` ${p.id === program?.id ? "" : ""}`}
              onClick={() => setChosen(p.id)}
            >
              {p.name}
              {p.enabled === false
                ? " (off)"
                : isHeld(p, date)
                  ? p.holdUntil === "indefinite"
                    ? " (held, no end)"
                    : ` (held until ${p.holdUntil})`
                  : ""}
            </Button>
          ))}
        </div>
        {canEdit && (
          <Button onClick={add} disabled={draft.controllers.length === 0}>
            + Program
          </Button>
        )}
        <span className="grow" />
        <Button
          className="no-print"
          aria-expanded={calendar}
          disabled={draft.programs.length === 0}
          onClick={() => setCalendar(!calendar)}
        >
          Calendar of all
        </Button>
        <Button
          className="no-print"
          aria-expanded={once}
          disabled={draft.stations.length === 0}
          onClick={() => setOnce(!once)}
        >
          One-off run
        </Button>
        <Button
          className="no-print"
          aria-pressed={sheet}
          disabled={draft.controllers.length === 0}
          onClick={() => setSheet(!sheet)}
        >
          {sheet ? "Programs" : "Setup sheet"}
        </Button>
      </div>
      {calendar && (
        <AllPrograms
          onPick={(id) => {
            setChosen(id);
            setCalendar(false);
          }}
        />
      )}
      {once && <OneOffPanel />}
      {sheet && <SetupSheetView />}
      <div className={sheet ? "hidden" : undefined}>
        <SiteWide />
        {program ? (
          <ProgramSheet key={program.id} program={program} />
        ) : (
          <p className="max-w-prose my-4">
            {draft.stations.length === 0
              ? "List the stations first; then write the program that waters them."
              : "No program yet. Add one: its days, start times and window, then the minutes of each station."}
          </p>
        )}
      </div>
    </>
  );
}

function SiteWide() {
  const { draft, edit, canEdit } = useWorkspace();
  const site = draft.site;
  const put = (values: Patch<typeof site>): void =>
    edit((f) => ({ ...f, site: JSON.parse(JSON.stringify({ ...f.site, ...values })) }));
  return (
    <details className="mb-3 border-b border-base-300 pb-2">
      <summary className="cursor-pointer font-semibold">
        Whole site: {site.seasonalPercent ?? 100} % seasonal,{" "}
        {site.maxStationsAtOnce ? `${site.maxStationsAtOnce} at once` : "no number at once"}
        {site.holdUntil
          ? `, ${site.holdUntil === "indefinite" ? "OFF, no end set" : `off until ${site.holdUntil}`}`
          : ""}
        {draft.weatherInputs?.length
          ? `, ${draft.weatherInputs.length} weather input${draft.weatherInputs.length === 1 ? "" : "s"}`
          : ""}
        {draft.weatherInputs?.some((w) => w.bypassed) ? ", ▲ one bypassed" : ""}
      </summary>
      <div className="flex flex-wrap gap-3 mt-2 items-end">
        <div className="w-40">
          <NumberField
            label="Seasonal percent"
            unit="%"
            value={site.seasonalPercent ?? 100}
            min={0}
            max={1000}
            disabled={!canEdit}
            onCommit={(v) => put({ seasonalPercent: v })}
          />
        </div>
        <div className="w-40">
          <NumberField
            label="Stations at once"
            value={site.maxStationsAtOnce}
            min={1}
            max={10_000}
            whole
            disabled={!canEdit}
            onCommit={(v) => put({ maxStationsAtOnce: v })}
          />
        </div>
        <DateField
          label="Off until (waters again that day)"
          value={site.holdUntil && site.holdUntil !== "indefinite" ? site.holdUntil : undefined}
          disabled={!canEdit}
          className="w-44"
          onCommit={(v) => put({ holdUntil: v })}
        />
        <TickField
          label="Off, with no end"
          checked={site.holdUntil === "indefinite"}
          disabled={!canEdit}
          onCommit={(v) => put({ holdUntil: v ? "indefinite" : undefined })}
        />
      </div>
      <WeatherInputs />
    </details>
  );
}

function ProgramSheet({ program }: { program: Program }) {
  const { draft, edit, canEdit, date } = useWorkspace();
  const [establishing, setEstablishing] = useState(false);
  const put = (values: Patch<Program>): void => edit(patchProgram(program.id, values));
  const findings = useMemo(() => check(draft).filter((f) => f.subjectId === program.id), [draft, program.id]);
  const setDays = (type: Program["days"]["type"]): void =>
    put({
      days: DAY_RULES[type].blank(date),
    });
  const { days } = program;
  return (
    <div className="grid xl:grid-cols-[27rem_minmax(0,1fr)] gap-8">
      <section aria-label={`When ${program.name} runs`} className="flex flex-col gap-3">
        <div className="grid grid-cols-2 gap-3">
          <TextField
            label="Name"
            value={program.name}
            disabled={!canEdit}
            onCommit={(v) => put({ name: v.trim() || program.name })}
          />
          <ChoiceField
            label="Controller"
            value={program.controllerId}
            disabled={!canEdit || program.runs.length > 0}
            hint={program.runs.length > 0 ? "take its stations out to move it" : undefined}
            options={draft.controllers.map((c) => [c.id, c.name] as const)}
            onCommit={(v) => put({ controllerId: v })}
          />
        </div>
        <Starts program={program} />
        <div>
          <ChoiceField
            label="Days"
            value={days.type}
            disabled={!canEdit}
            options={DAY_TYPES.map((t) => [t, DAY_RULES[t].label] as const)}
            onCommit={setDays}
          />
          <div className="mt-2 flex flex-wrap items-end gap-3">
            {days.type === "weekdays" && (
              <DayTicks
                label="Weekdays"
                days={days.days}
                disabled={!canEdit}
                onCommit={(d) => put({ days: { type: "weekdays", days: d } })}
              />
            )}
            {days.type === "odd" && (
              <TickField
                label="skip the 31st and 29 February"
                checked={days.skip31st === true}
                disabled={!canEdit}
                onCommit={(v) => put({ days: { type: "odd", ...(v ? { skip31st: true } : {}) } })}
              />
            )}
            {days.type === "interval" && (
              <>
                <div className="w-28">
                  <NumberField
                    label="Every, days"
                    value={days.everyDays}
                    min={1}
                    max={30}
                    whole
                    required
                    disabled={!canEdit}
                    onCommit={(v) => put({ days: { ...days, everyDays: v ?? 1 } })}
                  />
                </div>
                <DateField
                  label="counted from"
                  required
                  value={days.anchor}
                  disabled={!canEdit}
                  className="w-44"
                  onCommit={(v) => v && put({ days: { ...days, anchor: v } })}
                />
                <div>
                  <span className="block text-sm text-faint">never on</span>
                  <DayTicks
                    label="Never on"
                    days={days.neverOn ?? []}
                    disabled={!canEdit}
                    onCommit={(d) =>
                      put({
                        days: {
                          type: "interval",
                          everyDays: days.everyDays,
                          anchor: days.anchor,
                          ...(d.length > 0 ? { neverOn: d } : {}),
                        },
                      })
                    }
                  />
                </div>
              </>
            )}
          </div>
        </div>
        <CalendarStrip program={program} />
        <WeekGrid
          windows={program.windows}
          closed={program.closedHours}
          starts={startsOn(program)}
          disabled={!canEdit}
          onCommit={(windows) => put({ windows })}
        />
        <WindowList
          label="Water window (none: always)"
          value={program.windows}
          disabled={!canEdit}
          onCommit={(windows) => put({ windows })}
        />
        <WindowList
          label="Closed hours"
          value={program.closedHours}
          disabled={!canEdit}
          onCommit={(closedHours) => put({ closedHours })}
        />
        <div className="grid grid-cols-3 gap-3">
          <NumberField
            label="Stations at once"
            value={program.maxStationsAtOnce ?? 1}
            min={1}
            max={10_000}
            whole
            disabled={!canEdit}
            onCommit={(v) => put({ maxStationsAtOnce: v })}
          />
          <NumberField
            label="Delay between"
            unit="s"
            value={program.delayS ?? 0}
            min={0}
            max={86_400}
            whole
            disabled={!canEdit}
            onCommit={(v) => put({ delayS: v })}
          />
          <NumberField
            label="Priority"
            value={program.priority ?? 1}
            min={0}
            max={1000}
            whole
            disabled={!canEdit}
            onCommit={(v) => put({ priority: v })}
          />
          <NumberField
            label="Seasonal percent"
            unit="%"
            value={program.seasonalPercent ?? 100}
            min={0}
            max={1000}
            disabled={!canEdit}
            onCommit={(v) => put({ seasonalPercent: v })}
          />
          <ChoiceField
            label="One that does not fit"
            value={program.dispatch ?? "fill"}
            disabled={!canEdit}
            options={[
              ["fill", "is passed over (fill)"],
              ["strict", "stops the queue (strict)"],
            ]}
            onCommit={(v) => put({ dispatch: v })}
          />
          <div className="self-end">
            <TickField
              label="in use"
              checked={program.enabled !== false}
              disabled={!canEdit}
              onCommit={(v) => put({ enabled: v ? undefined : false })}
            />
          </div>
        </div>
        <div className="grid grid-cols-2 gap-3">
          <DateField
            label="In use from (that day too)"
            value={program.from}
            disabled={!canEdit}
            className="w-44"
            onCommit={(v) => put({ from: v })}
          />
          <DateField
            label="until (that day too)"
            value={program.until}
            disabled={!canEdit}
            className="w-44"
            onCommit={(v) => put({ until: v })}
          />
        </div>
        <div className="flex flex-wrap items-end gap-3">
          <DateField
            label="Held until (waters again that day)"
            value={program.holdUntil && program.holdUntil !== "indefinite" ? program.holdUntil : undefined}
            disabled={!canEdit || program.holdUntil === "indefinite"}
            className="grow"
            onCommit={(v) => put({ holdUntil: v })}
          />
          <TickField
            label="held, with no end"
            checked={program.holdUntil === "indefinite"}
            disabled={!canEdit}
            onCommit={(v) => put({ holdUntil: v ? "indefinite" : undefined })}
          />
        </div>
        <InputRules program={program} />
        <MonthsField
          label="Percent by month"
          unit="%"
          value={program.monthlyPercent}
          usual={100}
          max={1000}
          disabled={!canEdit}
          onCommit={(monthlyPercent) => put({ monthlyPercent })}
        />
        {findings.length > 0 && (
          <ul>
            {findings.map((f) => (
              <li
                key={f.code + f.path}
                className={
                  f.severity === "error"
                    ? "text-error font-semibold"
                    : f.severity === "warning"
                      ? "text-warning"
                      : "text-faint"
                }
              >
                {f.severity === "note" ? "○" : "▲"} {f.message}
              </li>
            ))}
          </ul>
        )}
        {canEdit && (
          <div className="flex gap-2">
            <Button
              aria-expanded={establishing}
              disabled={program.runs.length === 0}
              onClick={() => setEstablishing(!establishing)}
            >
              Establish new turf or planting
            </Button>
            <Button onClick={() => edit(removeProgram(program.id))}>Delete program</Button>
          </div>
        )}
        {establishing && canEdit && <EstablishPanel program={program} />}
      </section>
      <RunMatrix program={program} />
    </div>
  );
}

const at = (start: Start, time: string): Start => (typeof start === "string" ? time : { ...start, at: time });

function Starts({ program }: { program: Program }) {
  const { draft, edit, canEdit, date } = useWorkspace();
  const put = (starts: Start[]): void => edit(patchProgram(program.id, { starts }));
  const skipped = startsOn(program).filter((s) =>
    Array.from({ length: 366 }, (_, i) => addDays(date, i)).some(
      (d) => isDue(program, d) && isSkippedWallTime(draft.site.timeZone, d, s),
    ),
  );
  return (
    <fieldset>
      <legend className="text-sm text-faint">Start times</legend>
      <div className="flex flex-wrap gap-2">
        {program.starts.map((s, i) => (
          <span key={`${i}-${program.starts.length}`} className="inline-flex">
            <TimeField
              label={`Start ${i + 1}`}
              hideLabel
              required
              value={startAt(s)}
              disabled={!canEdit}
              onCommit={(v) => v && put(program.starts.map((x, n) => (n === i ? at(x, v) : x)))}
            />
            {canEdit && (
              <Button
                rank="quiet"
                aria-label={`Remove start ${startAt(s)}`}
                onClick={() => put(program.starts.filter((_, n) => n !== i))}
              >
                ✕
              </Button>
            )}
          </span>
        ))}
        {canEdit && <Button onClick={() => put([...program.starts, "04:00"])}>+ start</Button>}
      </div>
      {skipped.length > 0 && (
        <p className="text-sm text-warning mt-1">
          ▲ {skipped.join(", ")} does not exist in the night when the clocks go forward; the program then starts at the
          first minute after the gap.
        </p>
      )}
    </fieldset>
  );
}

/** The next six weeks: which dates the rule waters. */
function CalendarStrip({ program }: { program: Program }) {
  const { date } = useWorkspace();
  const days = Array.from({ length: 42 }, (_, i) => addDays(date, i));
  const due = days.filter((d) => isDue(program, d));
  return (
    <div>
      <div
        className="grid grid-cols-[repeat(21,minmax(0,1fr))] border-l border-t border-base-300"
        role="img"
        aria-label={`Waters on ${due.length} of the next 42 days: ${due.slice(0, 8).join(", ")}${due.length > 8 ? " and so on" : ""}`}
      >
        {days.map((d) => {
          const on = isDue(program, d);
          const weekend = ["sat", "sun"].includes(weekdayOf(d));
          return (
            <span
              key={d}
              title={`${weekdayOf(d)} ${d}${on ? ", waters" : ""}`}
              className={`text-center text-xs leading-6 border-r border-b border-base-300 ${on ? "bg-primary text-primary-content font-semibold" : weekend ? "bg-base-200 text-faint" : "text-faint"}`}
            >
              {Number(d.slice(8))}
            </span>
          );
        })}
      </div>
      <p className="text-sm text-faint">
        The next six weeks from {date}: {due.length} days.
      </p>
    </div>
  );
}

/** Stations × minutes of this program, with what each adds up to. */
function RunMatrix({ program }: { program: Program }) {
  const { draft, edit, canEdit, units, date } = useWorkspace();
  const [bulk, setBulk] = useState<number | undefined>(undefined);
  const mine = new Map(program.runs.map((r, i) => [r.stationId, { ...r, place: i }]));
  const stations = draft.stations.filter((s) => s.controllerId === program.controllerId);
  const ordered = [...stations].sort(
    (a, b) => (mine.get(a.id)?.place ?? 1e6) - (mine.get(b.id)?.place ?? 1e6) || a.number - b.number,
  );
  const others = (id: string): string =>
    draft.programs
      .filter((p) => p.id !== program.id && p.runs.some((r) => r.stationId === id && r.minutes > 0))
      .map((p) => p.name)
      .join(", ");
  const seconds = (minutes: number, on = date): number => adjustedSeconds(draft, program, minutes, on);
  const totalS = program.runs.reduce((sum, r) => sum + seconds(r.minutes), 0);
  const flow = new Map(draft.stations.map((s) => [s.id, expectedFlow(s)?.lpm ?? 0]));
  const litresOf = (on: string): number =>
    program.runs.reduce((sum, r) => sum + ((flow.get(r.stationId) ?? 0) * seconds(r.minutes, on)) / 60, 0);
  const litres = litresOf(date);
  const week = Array.from({ length: 7 }, (_, i) => addDays(date, i))
    .filter((d) => isDue(program, d))
    .reduce((sum, d) => sum + litresOf(d) * program.starts.length, 0);
  return (
    <section aria-label={`Run times of ${program.name}`} className="min-w-0">
      <p className="mb-2">
        <strong>{showNumber(totalS / 60, 1)} station minutes</strong> and{" "}
        <strong>{showQuantity(litres, "volume", units)}</strong> a start; {program.starts.length} start
        {program.starts.length === 1 ? "" : "s"} a day; <strong>{showQuantity(week, "volume", units)}</strong> in the
        coming week.
      </p>
      <YearWater program={program} />
      {canEdit && (
        <div className="flex flex-wrap items-end gap-2 mb-2">
          <div className="w-36">
            <NumberField
              label="Minutes for all not yet in"
              unit="min"
              value={bulk}
              min={0}
              max={1440}
              onCommit={setBulk}
            />
          </div>
          <Button
            disabled={bulk === undefined}
            onClick={() =>
              edit((f) =>
                stations
                  .filter((s) => !mine.has(s.id))
                  .reduce((file, s) => setMinutes(program.id, s.id, bulk)(file), f),
              )
            }
          >
            Add {stations.filter((s) => !mine.has(s.id)).length} stations
          </Button>
        </div>
      )}
      <div className="overflow-auto max-h-[calc(100dvh-20rem)] border border-base-300">
        <Table>
          <thead>
            <tr>
              <th>Order</th>
              <th>Station</th>
              <th className="text-right">Minutes</th>
              <th className="text-right">Runs, min:s</th>
              <th>Cycles</th>
              <th>Also in</th>
            </tr>
          </thead>
          <tbody>
            {ordered.map((s) => {
              const run = mine.get(s.id);
              const sec = run ? seconds(run.minutes) : 0;
              return (
                <tr key={s.id}>
                  <td className="whitespace-nowrap">
                    {run ? (
                      <>
                        {run.place + 1}
                        {canEdit && (
                          <>
                            {" "}
                            <Button
                              rank="quiet"
                              className="!min-h-0"
                              aria-label={`Station ${s.number} earlier`}
                              onClick={() => edit(moveRun(program.id, s.id, -1))}
                            >
                              ↑
                            </Button>
                            <Button
                              rank="quiet"
                              className="!min-h-0"
                              aria-label={`Station ${s.number} later`}
                              onClick={() => edit(moveRun(program.id, s.id, 1))}
                            >
                              ↓
                            </Button>
                          </>
                        )}
                      </>
                    ) : (
                      <span className="text-faint">–</span>
                    )}
                  </td>
                  <td className={run ? "" : "text-faint"}>
                    {s.number} {s.name}
                  </td>
                  <td className="w-24">
                    <NumberField
                      hideLabel
                      label={`Minutes of station ${s.number}`}
                      value={run?.minutes}
                      min={0}
                      max={1440}
                      disabled={!canEdit}
                      placeholder="out"
                      onCommit={(v) => edit(setMinutes(program.id, s.id, v))}
                    />
                  </td>
                  <td className="text-right">
                    {run ? `${Math.floor(sec / 60)}:${String(sec % 60).padStart(2, "0")}` : ""}
                  </td>
                  <td>
                    {s.cycle
                      ? `${"count" in s.cycle ? `${s.cycle.count} ×` : `max ${s.cycle.longestMin} min`}, soak ${s.soakMin ?? 0} min`
                      : ""}
                  </td>
                  <td className="text-faint">{others(s.id)}</td>
                </tr>
              );
            })}
          </tbody>
        </Table>
      </div>
    </section>
  );
}
