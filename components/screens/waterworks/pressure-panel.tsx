"use client";
import { ArrowDown } from "lucide-react";
import { DateField } from "@/components/kit/date-field";
import { Checkbox, Select } from "@/components/kit/inputs";
import { Button } from "@/components/kit/button";
import { Table } from "@/components/kit/table";
import { Caution, Mark } from "@/components/kit/notice";
import { useState } from "react";

import type { Pressures } from "@/components/draft/use-pressures";
import { useWorkspace } from "@/components/draft/site-draft";
import { localIso } from "@/core/dates/wall-time";
import type { SetPressures } from "@/core/hydraulics/pressures";
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
  const { draft, date, setDate, units } = useWorkspace("draft", "date", "setDate", "units");
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
  const station = (id: string) => draft.stations.find((s) => s.id === id);
  const pressure = (kPa: number): string => showQuantity(kPa, "pressure", units);
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
      <p aria-live="polite" className="text-lg">
        {found.state === "working" && "Solving the network…"}
        {found.state !== "working" &&
          worst === null &&
          "No pressure can be told: no source states one and no pump makes one."}
        {found.state !== "working" && worst !== null && (
          <>
            Worst:{" "}
            <Button
              rank="bare"
              className="underline underline-offset-2 font-semibold cursor-pointer"
              onClick={() => onSelect(worst.stationId)}
            >
              {station(worst.stationId)?.number} {station(worst.stationId)?.name}
            </Button>
            , {pressure(worst.kPa)}
            {worst.requiredKpa !== null && (
              <>
                ; it requires {pressure(worst.requiredKpa)},{" "}
                {(worst.marginKpa ?? 0) < 0 ? (
                  <strong className="text-error">
                    <ArrowDown className="inline size-[1em] align-[-0.12em]" aria-hidden />{" "}
                    {pressure(-(worst.marginKpa ?? 0))} short
                  </strong>
                ) : (
                  `${pressure(worst.marginKpa ?? 0)} to spare`
                )}
              </>
            )}
            .{" "}
            {short > 0 && (
              <span>
                {short} of {rows.length} are short.
              </span>
            )}
          </>
        )}
      </p>
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
                <th className="text-right">Flow</th>
                <th className="text-right">Requires</th>
                {set && <th className="text-right">Alone</th>}
                <th className="text-right">{set ? "Now" : "Alone"}</th>
                <th className="text-right">To spare</th>
              </tr>
            </thead>
            <tbody>
              {ordered.map((s) => {
                const of = station(s.stationId);
                const flow = of ? expectedFlow(of)?.lpm : undefined;
                const before = alone.get(s.stationId);
                return (
                  <tr key={s.stationId} className={s.stationId === worst?.stationId ? "font-semibold" : ""}>
                    <td>
                      <Button
                        rank="bare"
                        className="underline underline-offset-2 cursor-pointer text-left"
                        onClick={() => onSelect(s.stationId)}
                      >
                        {of?.number} {of?.name}
                      </Button>
                    </td>
                    <td>{draft.mainlines.find((m) => m.id === of?.mainlineId)?.name}</td>
                    <td className="text-right">{flow === undefined ? "–" : showQuantity(flow, "flow", units)}</td>
                    <td className="text-right">{s.requiredKpa === null ? "–" : pressure(s.requiredKpa)}</td>
                    {set && <td className="text-right text-faint">{before ? pressure(before.kPa) : "–"}</td>}
                    <td className="text-right">{pressure(s.kPa)}</td>
                    <td className={`text-right ${(s.marginKpa ?? 0) < 0 ? "text-error" : ""}`}>
                      {s.marginKpa === null ? "–" : pressure(s.marginKpa)}
                    </td>
                  </tr>
                );
              })}
            </tbody>
          </Table>
        </div>
      )}
      {study && (study.assumptions.length > 0 || study.unknown.length > 0) && (
        <ul className="text-sm text-faint mt-2">
          {[...new Set(study.assumptions.map((a) => a.code))].map((code) => (
            <li key={code}>
              {study.assumptions
                .filter((a) => a.code === code)
                .map((a) => nameOf(draft, a.subjectId))
                .join(", ")}
              : {ASSUMED[code]}.
            </li>
          ))}
          {study.unknown.length > 0 && (
            <li>
              For {study.unknown.length} station{study.unknown.length > 1 ? "s" : ""} no pressure can be told; there,
              dividing flow over feeds is necessary, not sufficient.
            </li>
          )}
        </ul>
      )}
      <Caution>
        Relieve pressure before opening a fitting; open and close mains slowly. These figures help a qualified person
        decide; they do not replace an engineer.
      </Caution>
    </section>
  );
}

function nameOf(file: ReturnType<typeof useWorkspace>["draft"], id: string): string {
  const found = [...file.sources, ...file.pocs, ...file.mainlines].find((e) => e.id === id);
  return found?.name ?? file.mainlines.flatMap((m) => m.pipes).find((p) => p.id === id)?.name ?? id;
}
