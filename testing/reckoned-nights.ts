import { addDays } from "../core/dates/wall-time.ts";
import { normal, randomFrom } from "../core/bench/random.ts";
import { nth } from "../core/checked.ts";
import { benchLog } from "../core/reckon/bench-log.ts";
import type { Probe } from "../core/reckon/probe.ts";
import type { Log } from "../core/reckon/stretches.ts";
import { parseSiteOrThrow } from "../core/site-file/parse-site.ts";
import type { SiteFile, Station } from "../core/site-file/schema.ts";

/** Random sites and the logs of their nights on the real, noisy bench, for trials of what nights say. */

/** A share as close to 1 as a learning comes. */
const LEARNED_OFF = 0.01;

/**
 * A site of some stations on a tree of mains behind one or two connections, watered every night.
 *
 * @returns the site as it stands in the ground, whose stations flow as its figures say; and as it is known, with figures that were learned
 */
export function reckonedSite(seed: number, stations: number): { ground: SiteFile; known: SiteFile } {
  const random = randomFrom(seed);
  const between = (lo: number, hi: number): number => Math.round(lo + (hi - lo) * random());
  const mains = Math.max(1, Math.round(stations / 20));
  const two = stations >= 40;
  const ceiling = Math.round(150 + 5 * Math.sqrt(stations) * 20);
  const flows = Array.from({ length: stations }, () => between(20, 130));
  const lots = Math.max(1, Math.round(stations / 30));
  const feed = (main: number): string => {
    if (main === 0) return "poc-a";
    return main === 1 && two ? "poc-b" : `m${between(0, main - 1)}`;
  };
  const ground = parseSiteOrThrow({
    format: "presa-site",
    version: 1,
    site: { id: `reckoned-${seed}`, name: "Reckoned", timeZone: "Europe/Vienna", units: "metric" },
    sources: [{ id: "src", name: "Source", kind: "municipal", staticPressureKpa: between(420, 650) }],
    pocs: (two ? ["a", "b"] : ["a"]).map((p) => ({
      id: `poc-${p}`,
      name: p,
      sourceIds: ["src"],
      ceilingLpm: ceiling,
      ceilingReason: "as built",
      devices: [
        { id: `v-${p}`, kind: "masterValve", normally: "closed" },
        {
          id: `f-${p}`,
          kind: "flowSensor",
          output: { type: "frequency", kGpm: 1.6, offsetHz: 0.3 },
          minLpm: 10,
          maxLpm: 3000,
        },
      ],
    })),
    mainlines: Array.from({ length: mains }, (_, i) => ({
      id: `m${i}`,
      name: `Main ${i}`,
      feedIds: [feed(i)],
      ceilingLpm: ceiling,
      ceilingReason: "as built",
      pipes: [
        {
          id: `pipe${i}`,
          kind: "pipe",
          material: "PVC",
          series: "Class 200",
          nominal: "4",
          insideDiameterMm: between(75, 110),
          lengthM: between(40, 160),
        },
      ],
    })),
    controllers: [{ id: "c", name: "C", powered: "mains", maxStationsAtOnce: 20 }],
    stations: flows.map((lpm, i) => ({
      id: `s${i}`,
      number: i + 1,
      name: `S${i + 1}`,
      controllerId: "c",
      mainlineId: `m${i % mains}`,
      enteredFlowLpm: lpm,
      ...(i % 4 === 0 ? { cycle: { longestMin: 6 }, soakMin: 10 } : {}),
    })),
    programs: Array.from({ length: lots }, (_, p) => ({
      id: `p${p}`,
      name: `P${p}`,
      controllerId: "c",
      starts: [["20:30", "22:00", "23:00"][p % 3]],
      days: { type: "interval", everyDays: 1, anchor: "2026-01-01" },
      maxStationsAtOnce: between(2, 5),
      priority: 1 + (p % 2),
      runs: flows.flatMap((_, i) => (i % lots === p ? [{ stationId: `s${i}`, minutes: between(6, 22) }] : [])),
    })),
    policy: {
      basis: "station",
      highPercent: 25,
      lowPercent: 30,
      persistenceS: 120,
      highResponse: "notify",
      lowResponse: "notify",
    },
  });
  const known = structuredClone(ground);
  for (const s of known.stations as Station[]) {
    const lpm = s.enteredFlowLpm as number;
    const meanLpm = lpm * (1 + LEARNED_OFF * normal(random));
    s.learned = { meanLpm, sdLpm: 0.01 * meanLpm, at: "2026-06-01T22:00:00Z" };
  }
  return { ground, known };
}

/** The site with the runs of a probe after its night, one after the other. */
export function probed(site: SiteFile, { runs }: Probe): SiteFile {
  const next = structuredClone(site);
  next.programs.push({
    id: "probe",
    name: "Probe",
    controllerId: nth(site.controllers, 0).id,
    starts: ["10:30"],
    days: { type: "interval", everyDays: 1, anchor: "2026-01-01" },
    maxStationsAtOnce: 1,
    runs: runs.map(({ stationId, seconds }) => ({ stationId, minutes: seconds / 60 })),
  });
  return next;
}

/** The log of a night, a row in five seconds. */
export const nightLog = (ground: SiteFile, date: string, faults: unknown[], seed: number): Log =>
  benchLog(ground, { date, faults, seed }, 5);

/** One night after the other. */
export const dates = (from: string, nights: number): string[] =>
  Array.from({ length: nights }, (_, i) => addDays(from, i));

/** A log as a recorder writes it. */
export function logCsv(site: SiteFile, { keys, rows }: Log): string {
  const heading = ["time", ...keys.map((k) => `flow ${k} L/min`), "station"];
  const lines = rows.map(({ t, flow, open }) =>
    [
      new Date(1000 * t).toISOString(),
      ...flow.map((f) => f?.toFixed(2) ?? ""),
      open.map((s) => site.stations[s]?.number).join("+"),
    ].join(),
  );
  return `${heading.join()}\n${lines.join("\n")}\n`;
}
