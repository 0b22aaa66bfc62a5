"use client";
import { Scroller } from "@/components/kit/scroller";
import { useConventions } from "@/components/kit/conventions";
import { Mark } from "@/components/kit/notice";
import { Select } from "@/components/kit/inputs";
import { Button } from "@/components/kit/button";
import { Table } from "@/components/kit/table";
import { startsWords } from "@/core/site-file/starts";
import { useMemo, useState } from "react";
import { fileStem, saveText } from "@/components/kit/save-file";
import { useProfiles } from "@/components/data/use-profiles";
import { useChanges, useNight, useWorkspace } from "@/components/draft/site-draft";
import { plan } from "@/core/dispatch/plan";
import { setupCsv, setupSheet } from "@/core/exports/setup-sheet";
import { type DifferenceCode, roundSite } from "@/core/profiles/round-site";
import { showNumber, showQuantity } from "@/core/units/units";

const DIFFERENCE: Record<DifferenceCode, string> = {
  minutes: "minutes",
  percent: "percent",
  atOnce: "stations at once",
  controllerAtOnce: "stations at once on it",
  delay: "delay, s",
  starts: "starts",
  programs: "program number",
  stations: "stations",
  cycle: "cycles",
  windows: "hours:",
  days: "days",
  flowLimits: "flow limits",
  high: "high limit, %",
  low: "low limit, %",
  persistence: "persistence, s",
};

/** The sheet that someone takes to a controller, to print or as CSV: programs, start times, days, minutes, in the controller's order. */
export function SetupSheetView() {
  const { draft, date, units } = useWorkspace("draft", "date", "units");
  const { date: write, clock } = useConventions();
  const changes = useChanges();
  const night = useNight();
  const [id, setId] = useState(draft.controllers[0]?.id ?? "");
  const { all } = useProfiles();
  const rounded = useMemo(() => roundSite(draft, all), [draft, all]);
  const then = useMemo(() => (rounded.differences.length > 0 ? plan(rounded.site, date) : null), [rounded, date]);
  const controller = draft.controllers.find((c) => c.id === id) ?? draft.controllers[0];
  if (!controller) return <p>No controller yet.</p>;
  const profile = all.find((p) => p.id === controller.profileId);
  const held = rounded.site.controllers.find((c) => c.id === controller.id) ?? controller;
  const sheet = setupSheet(rounded.site, held, date, write);
  const mine = rounded.differences.filter((d) => d.controllerId === controller.id);
  const name = (subjectId: string): string => {
    const s = draft.stations.find((x) => x.id === subjectId);
    return s ? `${s.number} ${s.name}` : (draft.programs.find((p) => p.id === subjectId)?.name ?? controller.name);
  };
  return (
    <section aria-label="Setup sheet">
      <div className="no-print flex flex-wrap items-end gap-2 mb-2">
        <label className="w-56">
          <span className="block text-sm text-faint">Controller</span>
          <Select value={controller.id} onChange={(e) => setId(e.target.value)}>
            {draft.controllers.map((c) => (
              <option key={c.id} value={c.id}>
                {c.name}
              </option>
            ))}
          </Select>
        </label>
        <Button rank="main" onClick={() => window.print()}>
          Print
        </Button>
        <Button
          onClick={() =>
            saveText(
              setupCsv(setupSheet(rounded.site, held, date)),
              `${fileStem(draft)}-${controller.name.replace(/[^a-zA-Z0-9]+/g, "-")}-setup.csv`,
              "text/csv",
            )
          }
        >
          CSV
        </Button>
        {changes.length > 0 && (
          <span className="text-warning">
            <Mark tone="caution" /> It shows {changes.length} change{changes.length > 1 ? "s" : ""} not saved yet.
          </span>
        )}
      </div>
      <h3 className="text-xl">
        {controller.name}, {draft.site.name}
      </h3>
      <p>
        {sheet.stations.length} stations
        {controller.maxStationsAtOnce ? ` · at most ${controller.maxStationsAtOnce} at once` : ""}
        {draft.site.maxStationsAtOnce ? ` · site at most ${draft.site.maxStationsAtOnce} at once` : ""}
        {controller.off ? " · OFF" : ""}. Times as on {write(date)}.
      </p>
      {sheet.held && (
        <p className="font-semibold text-warning">
          <Mark tone="caution" /> The whole site is {sheet.held}: nothing waters on {write(date)}.
        </p>
      )}
      {profile && (
        <div className="my-1 border-l-4 border-base-content pl-3">
          <p>
            As {profile.name} takes it:{" "}
            {mine.length === 0
              ? "every setting as it is."
              : `${mine.length} setting${mine.length > 1 ? "s" : ""} otherwise.`}{" "}
            {then && mine.length > 0 && (
              <>
                The night so rounded ends <strong>{clock(then.finish, date)}</strong>, as wanted{" "}
                {clock(night?.plan.finish, date)}
                {then.shortfalls.length > 0
                  ? `; ${showNumber(then.shortfalls.reduce((sum, s) => sum + s.minutes, 0))} min stay unwatered`
                  : ""}
                .
              </>
            )}
          </p>
          {mine.length > 0 && (
            <details>
              <summary className="cursor-pointer">Every difference</summary>
              <ul aria-label="Differences from what was wanted" className="columns-1 md:columns-2 text-sm">
                {mine.map((d) => (
                  <li key={`${d.code}${d.subjectId}${d.wanted}`}>
                    {name(d.subjectId)}: {DIFFERENCE[d.code]} {String(d.wanted)} → <strong>{String(d.taken)}</strong>
                  </li>
                ))}
              </ul>
            </details>
          )}
        </div>
      )}
      {sheet.programs.length === 0 && <p>No program runs on it.</p>}
      {sheet.programs.map(({ program: p, days, windows, percents, holds, inputs, rows, totalS, litres }) => (
        <div key={p.id} className="mt-3 break-inside-avoid">
          <h4 className="text-lg border-b-2 border-base-content">{p.name}</h4>
          <p>
            Starts <strong>{startsWords(p) || "none"}</strong> · {days} · window {windows} · {p.maxStationsAtOnce ?? 1}{" "}
            at once · priority {p.priority ?? 1} · {p.delayS ?? 0} s between ·{" "}
            {p.dispatch === "strict" ? "strict order" : "fill"}
            {inputs ? ` · ${inputs}` : ""}
          </p>
          {percents && (
            <p>
              Run times on {write(date)}: <strong>{percents}</strong> of the minutes.
            </p>
          )}
          {holds && (
            <p className="font-semibold text-warning">
              <Mark tone="caution" /> {holds[0]?.toUpperCase() + holds.slice(1)}.
            </p>
          )}
          <Scroller>
            <Table className="max-w-4xl">
              <thead>
                <tr>
                  <th className="text-right">Order</th>
                  <th className="text-right">Station</th>
                  <th>Name</th>
                  <th className="text-right">Minutes</th>
                  <th className="text-right">Runs, min:s</th>
                  <th>Cycles, min</th>
                  <th className="text-right">Soak, min</th>
                  <th className="text-right">Flow</th>
                </tr>
              </thead>
              <tbody>
                {rows.map((r) => (
                  <tr key={r.order}>
                    <td className="text-right">{r.order}</td>
                    <td className="text-right">{r.number}</td>
                    <td>{r.name}</td>
                    <td className="text-right">{r.minutes}</td>
                    <td className="text-right">
                      {Math.floor(r.runsS / 60)}:{String(r.runsS % 60).padStart(2, "0")}
                    </td>
                    <td>{r.cycles}</td>
                    <td className="text-right">{r.soakMin ?? ""}</td>
                    <td className="text-right">
                      {r.flowLpm === null ? "–" : showQuantity(r.flowLpm, "flow", units, 1)}
                    </td>
                  </tr>
                ))}
              </tbody>
              <tfoot>
                <tr className="font-semibold">
                  <td colSpan={4}>A start in all</td>
                  <td className="text-right">{showNumber(totalS / 60, 1)} min</td>
                  <td colSpan={2} />
                  <td className="text-right">{showQuantity(litres, "volume", units)}</td>
                </tr>
              </tfoot>
            </Table>
          </Scroller>
        </div>
      ))}
    </section>
  );
}
