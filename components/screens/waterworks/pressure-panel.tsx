"use client";
import { ArrowDown } from "lucide-react";
import { DateField } from "@/components/kit/date-field";
import { Checkbox, Select } from "@/components/kit/inputs";
import { Button } from "@/components/kit/button";
import { Table } from "@/components/kit/table";
import { useConventions } from "@/components/kit/conventions";
import { Caution, Mark } from "@/components/kit/notice";
import { useState } from "react";
import type { Pressures } from "@/components/draft/use-pressures";
import { useNightDate } from "@/components/frame/use-night-date";
import { useWorkspace } from "@/components/draft/site-draft";
import { localIso } from "@/core/dates/wall-time";
import type { PressureStudy, SetPressures } from "@/core/hydraulics/pressures";
import { type StationPressure, worstOf } from "@/core/hydraulics/worst-pressure";
import { expectedFlow } from "@/core/site-file/expected-flow";
import { showQuantity } from "@/core/units/units";

const ASSUMED: Record<string, string> = {
  noStaticPressure: "no static pressure is stated",
  unknownPipe: "the bore is not known, so no pressure is lost there",
  noPipes: "no pipe is entered, so none is lost there",
  evenlySpread: "stations are spread evenly along the main, for want of their places",
};

/** Pressure at every valve against what it requires: alone, with everything up to the ceiling, and in each set of the night. */
export function PressurePanel({ found, onSelect }: { found: Pressures; onSelect: (id: string) => void }) {
  const { draft, units } = useWorkspace("draft", "units");
  const [date, setDate] = useNightDate();
  const { unit } = useConventions();
  const [chosen, setChosen] = useState("alone");
  const [onlyShort, setOnlyShort] = useState(false);
  if (draft.stations.length === 0)
    return (
      <p className="max-w-prose my-3">
        No station yet. Pressure is judged at station valves: list them on Stations, with the pressure each needs.
      </p>
    );
  if (found.state === "failed")
    return (
      <p role="alert" className="text-error my-3">
        The network could not be solved: {found.message}
      </p>
    );
  const study = found.state === "done" ? found.study : null;
  const together = study?.night.find((n) => String(n.at) === chosen) ?? study?.design ?? null;
  const set: SetPressures | null = chosen === "alone" ? null : together;
  const rows: StationPressure[] = set?.stations ?? study?.alone ?? [];
  const worst = set ? set.worst : worstOf(rows);
  const alone = new Map(study?.alone.map((s) => [s.stationId, s]));
  const ordered = [...rows]
    .sort((a, b) => (a.marginKpa ?? a.kPa + 1e6) - (b.marginKpa ?? b.kPa + 1e6))
    .filter((s) => !onlyShort || (s.marginKpa ?? 0) < 0);
  const short = rows.filter((s) => (s.marginKpa ?? 0) < 0).length;
  const worstNight =
    study?.night.reduce<SetPressures | null>(
      (w, n) =>
        n.worst && (!w?.worst || (n.worst.marginKpa ?? n.worst.kPa) < (w.worst.marginKpa ?? w.worst.kPa)) ? n : w,
      null,
    ) ?? null;
  return (
    <section aria-label="Pressure" className="max-w-5xl">
      <div className="flex flex-wrap items-end gap-3 my-2">
        <label className="w-80">
          <span className="block text-sm text-faint">Running</span>
          <Select value={chosen} onChange={(e) => setChosen(e.target.value)}>
            <option value="alone">each station by itself</option>
            <option value="design">
              as many as the ceilings allow
              {study?.design
                ? ` (${study.design.stations.length}, ${showQuantity(study.design.totalLpm, "flow", units)})`
                : ""}
            </option>
            {study?.night.map((n) => (
              <option key={n.at} value={String(n.at)}>
                {localIso(draft.site.timeZone, n.at as number).slice(11, 16)}: {n.stations.length} open,{" "}
                {showQuantity(n.totalLpm, "flow", units)}
                {n === worstNight ? " — the worst of the night" : ""}
              </option>
            ))}
          </Select>
        </label>
        <DateField label="Night of" required value={date} className="w-44" onCommit={(v) => v && setDate(v)} />
        <label className="inline-flex items-center gap-2 min-h-[1.9rem]">
          <Checkbox checked={onlyShort} onChange={(e) => setOnlyShort(e.target.checked)} />
          only those that are short
        </label>
      </div>
      <WorstLine working={found.state === "working"} worst={worst} short={short} of={rows.length} onSelect={onSelect} />
      {set?.unbalanced && (
        <p className="text-error">
          <Mark tone="caution" /> The supply cannot deliver this set; its pressures mean nothing.
        </p>
      )}
      {set && set.pocs.length > 1 && (
        <p className="text-sm">
          The solver divides the flow:{" "}
          {set.pocs
            .filter((p) => p.lpm > 0.5)
            .map((p) => `${draft.pocs.find((x) => x.id === p.id)?.name} ${showQuantity(p.lpm, "flow", units)}`)
            .join(" · ")}
        </p>
      )}
      {rows.length > 0 && (
        <div className="max-h-[calc(100dvh-24rem)] min-h-48 overflow-y-auto mt-2">
          <Table>
            <thead>
              <tr>
                <th>Station</th>
                <th>Mainline</th>
                <th className="text-right">Flow, {unit("flow")}</th>
                <th className="text-right">Requires, {unit("pressure")}</th>
                {set && <th className="text-right">Alone, {unit("pressure")}</th>}
                <th className="text-right">
                  {set ? "Now" : "Alone"}, {unit("pressure")}
                </th>
                <th className="text-right">To spare, {unit("pressure")}</th>
              </tr>
            </thead>
            <tbody>
              {ordered.map((s) => (
                <PressureRow
                  key={s.stationId}
                  at={s}
                  alone={set ? (alone.get(s.stationId) ?? null) : undefined}
                  worst={s.stationId === worst?.stationId}
                  onSelect={onSelect}
                />
              ))}
            </tbody>
          </Table>
        </div>
      )}
      {study && <Assumed study={study} />}
      <Caution>
        Relieve pressure before opening a fitting; open and close mains slowly. These figures help a qualified person
        decide; they do not replace an engineer.
      </Caution>
    </section>
  );
}

/** The station with the least to spare, and how many fall short. */
function WorstLine({
  working,
  worst,
  short,
  of,
  onSelect,
}: {
  working: boolean;
  worst: StationPressure | null;
  short: number;
  of: number;
  onSelect: (id: string) => void;
}) {
  const { draft } = useWorkspace("draft");
  const { quantity } = useConventions();
  const station = draft.stations.find((s) => s.id === worst?.stationId);
  const spare = worst?.marginKpa ?? 0;
  return (
    <p aria-live="polite" className="text-lg">
      {working && "Solving the network…"}
      {!working && worst === null && "No pressure can be told: no source states one and no pump makes one."}
      {!working && worst !== null && (
        <>
          Worst:{" "}
          <Button
            rank="bare"
            className="underline underline-offset-2 font-semibold cursor-pointer"
            onClick={() => onSelect(worst.stationId)}
          >
            {station?.number} {station?.name}
          </Button>
          , {quantity(worst.kPa, "pressure")}
          {worst.requiredKpa !== null && (
            <>
              ; it requires {quantity(worst.requiredKpa, "pressure")},{" "}
              {spare < 0 ? (
                <strong className="text-error">
                  <ArrowDown className="inline size-[1em] align-[-0.12em]" aria-hidden /> {quantity(-spare, "pressure")}{" "}
                  short
                </strong>
              ) : (
                `${quantity(spare, "pressure")} to spare`
              )}
            </>
          )}
          .{" "}
          {short > 0 && (
            <span>
              {short} of {of} are short.
            </span>
          )}
        </>
      )}
    </p>
  );
}

/** One station; `alone`: what it has by itself, where a set is shown. */
function PressureRow({
  at,
  alone,
  worst,
  onSelect,
}: {
  at: StationPressure;
  alone: StationPressure | null | undefined;
  worst: boolean;
  onSelect: (id: string) => void;
}) {
  const { draft } = useWorkspace("draft");
  const { figure } = useConventions();
  const station = draft.stations.find((s) => s.id === at.stationId);
  const flow = station ? expectedFlow(station)?.lpm : undefined;
  const kPa = (value: number | null | undefined): string => (value == null ? "–" : figure(value, "pressure", 1));
  return (
    <tr className={worst ? "font-semibold" : ""}>
      <td>
        <Button
          rank="bare"
          className="underline underline-offset-2 cursor-pointer text-left"
          onClick={() => onSelect(at.stationId)}
        >
          {station?.number} {station?.name}
        </Button>
      </td>
      <td>{draft.mainlines.find((m) => m.id === station?.mainlineId)?.name}</td>
      <td className="text-right">{flow === undefined ? "–" : figure(flow, "flow", 1)}</td>
      <td className="text-right">{kPa(at.requiredKpa)}</td>
      {alone !== undefined && <td className="text-right text-faint">{kPa(alone?.kPa)}</td>}
      <td className="text-right">{kPa(at.kPa)}</td>
      <td className={`text-right ${(at.marginKpa ?? 0) < 0 ? "text-error" : ""}`}>{kPa(at.marginKpa)}</td>
    </tr>
  );
}

/** What the figures rest on for want of better. */
function Assumed({ study }: { study: PressureStudy }) {
  const { draft } = useWorkspace("draft");
  const { assumptions, unknown } = study;
  if (assumptions.length === 0 && unknown.length === 0) return null;
  return (
    <ul className="text-sm text-faint mt-2">
      {[...new Set(assumptions.map((a) => a.code))].map((code) => (
        <li key={code}>
          {assumptions
            .filter((a) => a.code === code)
            .map((a) => nameOf(draft, a.subjectId))
            .join(", ")}
          : {ASSUMED[code]}.
        </li>
      ))}
      {unknown.length > 0 && (
        <li>
          For {unknown.length} station{unknown.length > 1 ? "s" : ""} no pressure can be told; there, dividing flow over
          feeds is necessary, not sufficient.
        </li>
      )}
    </ul>
  );
}

function nameOf(file: ReturnType<typeof useWorkspace>["draft"], id: string): string {
  const found = [...file.sources, ...file.pocs, ...file.mainlines].find((e) => e.id === id);
  return found?.name ?? file.mainlines.flatMap((m) => m.pipes).find((p) => p.id === id)?.name ?? id;
}
