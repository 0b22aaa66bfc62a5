"use client";
import { useLiveJudge } from "@/components/data/use-taught-sets";
import { stationName } from "@/core/site-file/station-name";
import { useMemo, useRef } from "react";
import { type LiveReading, useField } from "@/components/data/use-field";
import { useWorkspace } from "@/components/draft/site-draft";
import { useConventions } from "@/components/kit/conventions";
import { Table } from "@/components/kit/table";
import { FlowSketch } from "@/components/pictures/drawing/flow-sketch";
import { totalLpm } from "@/core/field/messages";
import { waterworks } from "@/core/network/waterworks";
import { expectedFlow } from "@/core/site-file/expected-flow";
import { devicesOf } from "@/core/site-file/records";
import type { SiteFile } from "@/core/site-file/schema";
import { LivePanel } from "../bench/live-panel";
import { useAgo } from "./other-end";

/** The whole site live: what flows where, what is open and for how long, what comes next, and how old each sensor's word is. */
export function SitePanel() {
  const { reading } = useField();
  return (
    <>
      {reading && <WholeSite reading={reading} />}
      <LivePanel />
    </>
  );
}

/** Where no sensor reads a main it carries what should flow in it, as much as the whole reads more or less than it should. */
function flowsOf(site: SiteFile, reading: LiveReading): Map<string, number> {
  const w = waterworks(site);
  const open = reading.open.flatMap((id) => w.stationIndex.get(id) ?? []);
  const lpm = (station: number): number => {
    const s = site.stations[station];
    return (s && expectedFlow(s)?.lpm) || 0;
  };
  const expected = open.reduce((sum, s) => sum + lpm(s), 0);
  const read = totalLpm(reading.flow);
  const share = expected > 0 && read > 0 ? read / expected : 1;
  const sensorOf = (devices: { id: string; kind: string }[] | undefined): number | null => {
    const sensor = devices?.find((d) => d.kind === "flowSensor");
    return sensor ? (reading.flow[sensor.id] ?? null) : null;
  };
  const flows = new Map<string, number>();
  site.mainlines.forEach((m, i) => {
    const below = open.filter((s) => (w.mainsAbove[w.stationMainline[s] ?? -1] ?? []).includes(i));
    flows.set(m.id, sensorOf(m.devices) ?? share * below.reduce((sum, s) => sum + lpm(s), 0));
  });
  site.pocs.forEach((p) => {
    flows.set(p.id, sensorOf(p.devices) ?? 0);
  });
  return flows;
}

function WholeSite({ reading }: { reading: LiveReading }) {
  const { draft } = useWorkspace("draft");
  const { quantity, figure, unit } = useConventions();
  const flows = useMemo(() => flowsOf(draft, reading), [draft, reading]);
  const { judge, known } = useLiveJudge();
  const band = judge.band(reading.open, Date.parse(reading.at) / 1000);
  const total = totalLpm(reading.flow);
  const name = (id: string): string => stationName(draft, id);
  return (
    <section
      aria-label="The whole site"
      className="mb-6 grid gap-x-8 gap-y-4 lg:grid-cols-[minmax(0,2fr)_minmax(0,1fr)]"
    >
      <div className="min-w-0">
        <FlowSketch site={draft} flows={flows} />
        {band && (
          <p>
            Reads {quantity(total, "flow")} of {quantity(band.expectedLpm, "flow")} expected
            {known(reading.open)}; trips above {quantity(band.highLpm, "flow")}, below {quantity(band.lowLpm, "flow")}.
          </p>
        )}
      </div>
      <div className="min-w-0">
        {reading.open.length === 0 ? (
          <p>Nothing is open.</p>
        ) : (
          <Table aria-label="Open on the whole site">
            <thead>
              <tr>
                <th>Open</th>
                <th className="text-right">expected, {unit("flow")}</th>
                <th className="text-right">left, min</th>
              </tr>
            </thead>
            <tbody>
              {reading.open.map((id) => {
                const s = draft.stations.find((x) => x.id === id);
                const lpm = s ? expectedFlow(s)?.lpm : undefined;
                const left = reading.left?.[id];
                return (
                  <tr key={id}>
                    <td>{name(id)}</td>
                    <td className="text-right">{lpm === undefined ? "–" : figure(lpm, "flow", 1)}</td>
                    <td className="text-right">{left === undefined ? "–" : Math.ceil(left / 60)}</td>
                  </tr>
                );
              })}
            </tbody>
          </Table>
        )}
        {reading.next && reading.next.length > 0 && (
          <p className="mt-1">
            <span className="text-faint">Next:</span> {reading.next.map(name).join(", ")}
          </p>
        )}
        <Sensors reading={reading} />
      </div>
    </section>
  );
}

/** What each sensor said last, and when. */
function Sensors({ reading }: { reading: LiveReading }) {
  const { draft } = useWorkspace("draft");
  const { quantity } = useConventions();
  const ago = useAgo();
  const last = useRef(new Map<string, { at: string; words: string }>());
  for (const [id, lpm] of Object.entries(reading.flow))
    if (lpm !== null) last.current.set(id, { at: reading.at, words: quantity(lpm, "flow") });
  for (const [id, kPa] of Object.entries(reading.pressure))
    if (kPa !== null) last.current.set(id, { at: reading.at, words: quantity(kPa, "pressure") });
  const sensors = devicesOf(draft).filter((d) => d.kind === "flowSensor" || d.kind === "pressureSensor");
  if (sensors.length === 0) return null;
  return (
    <ul aria-label="Sensors" className="mt-2 border-t border-base-300 pt-2 text-sm">
      {sensors.map((d) => {
        const said = last.current.get(d.id);
        return (
          <li key={d.id} className="flex justify-between gap-4">
            <span>{d.name ?? d.id}</span>
            <span className={said ? "" : "text-warning"}>
              {said ? (
                <>
                  {said.words} <span className="text-faint">{ago(said.at)}</span>
                </>
              ) : (
                "no word yet"
              )}
            </span>
          </li>
        );
      })}
    </ul>
  );
}
