import { performance } from "node:perf_hooks";
import { cpus } from "node:os";
import fc from "fast-check";
import { SWEPT, sweepFaults } from "../core/bench/sweep.ts";
import { simulate } from "../core/bench/simulate.ts";
import { flowMoments, plan, playNight } from "../core/dispatch/plan.ts";
import { networkModel } from "../core/hydraulics/network-model.ts";
import { nightSets } from "../core/hydraulics/pressure-sets.ts";
import { solveSets } from "../core/hydraulics/solver.ts";
import { comparedSchools } from "../core/limits/advice.ts";
import { policyFrom, SCHOOLS } from "../core/limits/schools.ts";
import { waterworks } from "../core/network/waterworks.ts";
import { betterNight } from "../core/optimize/better-night.ts";
import { randomFrom } from "../core/bench/random.ts";
import { parseSiteOrThrow } from "../core/site-file/parse-site.ts";
import type { SiteFile } from "../core/site-file/schema.ts";
import { lakesidePark } from "../server/demo/lakeside-park.ts";
import { demoSites } from "../server/demo/sites.ts";
import { brokenRules, faultNight } from "../testing/fault-nights.ts";
import { pasteStations } from "../components/screens/stations/paste.ts";

/** `npm run bench`: the speeds of architecture.md, measured. Prints a markdown table; asserts nothing. */
function generated(stations: number, mains: number, seed: number, minutes: [number, number]): SiteFile {
  const random = randomFrom(seed);
  const between = (lo: number, hi: number): number => Math.round(lo + (hi - lo) * random());
  return parseSiteOrThrow({
    format: "presa-site",
    version: 1,
    site: { id: "bench", name: "Bench", timeZone: "Europe/Vienna", units: "metric" },
    sources: [
      { id: "a", name: "A", kind: "municipal", staticPressureKpa: 500 },
      { id: "b", name: "B", kind: "municipal", priority: 2, staticPressureKpa: 480 },
    ],
    pocs: ["a", "b"].map((s) => ({
      id: `poc-${s}`,
      name: s,
      sourceIds: [s],
      devices: [
        { id: `m-${s}`, kind: "meter", continuousMaxLpm: 700 },
        { id: `v-${s}`, kind: "masterValve", normally: "closed" },
        {
          id: `f-${s}`,
          kind: "flowSensor",
          output: { type: "frequency", kGpm: 3, offsetHz: 0.2 },
          minLpm: 15,
          maxLpm: 3000,
        },
      ],
    })),
    mainlines: Array.from({ length: mains }, (_, i) => ({
      id: `main-${i}`,
      name: `Main ${i}`,
      feedIds: i === 0 ? ["poc-a", "poc-b"] : [i % 2 ? "poc-b" : "poc-a"],
      ceilingLpm: 350,
      pipes: [],
    })),
    controllers: [{ id: "c", name: "C", powered: "mains" }],
    stations: Array.from({ length: stations }, (_, i) => ({
      id: `s${i}`,
      number: i + 1,
      name: `S${i}`,
      controllerId: "c",
      mainlineId: `main-${i % mains}`,
      designFlowLpm: between(30, 130),
      ...(i % 3 === 0 ? { cycle: { longestMin: 8 }, soakMin: 15 } : {}),
    })),
    programs: [
      {
        id: "p",
        name: "P",
        controllerId: "c",
        starts: ["21:00"],
        days: { type: "weekdays", days: ["mon", "tue", "wed", "thu", "fri", "sat", "sun"] },
        maxStationsAtOnce: 12,
        runs: Array.from({ length: stations }, (_, i) => ({ stationId: `s${i}`, minutes: between(...minutes) })),
      },
    ],
    policy: {
      basis: "station",
      highPercent: 25,
      lowPercent: 30,
      persistenceS: 120,
      highResponse: "findAndIsolate",
      lowResponse: "findAndIsolate",
    },
  });
}

function median(values: number[]): number {
  return [...values].sort((a, b) => a - b)[Math.floor(values.length / 2)] as number;
}
/** ms of the first run of a process, and of those after it, warm. */
function time(times: number, work: (i: number) => void): { first: number; warm: number } {
  const taken: number[] = [];
  for (let i = 0; i <= times; i++) {
    const begin = performance.now();
    work(i);
    taken.push(performance.now() - begin);
  }
  return { first: taken[0] as number, warm: median(taken.slice(1)) };
}
const told = ({ first, warm }: { first: number; warm: number }, digits = 0): string =>
  `${warm.toFixed(digits)} ms, the first ${first.toFixed(digits)} ms`;
const DATE = "2026-07-14";
const rows: [string, string, string][] = [];

const large = generated(200, 8, 1, [20, 40]);
rows.push([
  "dispatch of one night, 200 stations",
  "under 50 ms",
  told(
    time(15, () => plan(large, DATE)),
    1,
  ),
]);

/** How long two seconds of search leave a night, over the bound that no order beats. */
function ratioOf(site: SiteFile): number {
  return better(site).ratio;
}
/** The same, and which share of what the night takes over its litres alone is known to be out of reach. */
function better(site: SiteFile): { ratio: number; outOfReach: number } {
  const until = performance.now() + 2000;
  const { makespanS, lateStartBoundS, lowerBoundS } = betterNight(site, DATE, {
    seed: 1,
    shouldStop: () => performance.now() > until,
  });
  return {
    ratio: lateStartBoundS > 0 ? makespanS / lateStartBoundS : 1,
    outOfReach: makespanS > lowerBoundS ? (lateStartBoundS - lowerBoundS) / (makespanS - lowerBoundS) : 0,
  };
}
const percentOver = (ratio: number): string => `${((ratio - 1) * 100).toFixed(1)} %`;

const ratios = Array.from({ length: 20 }, (_, i) => ratioOf(generated(60, 4, i + 1, [8, 25])));
rows.push([
  "better night, 60 stations on 4 mainlines, 2 s (median of 20 sites)",
  "within 3 % of the bound",
  `${percentOver(median(ratios))} (worst ${percentOver(Math.max(...ratios))})`,
]);

for (const mains of [1, 2, 4, 8]) {
  const found = [1, 2, 3, 4, 5].map((seed) => ratioOf(generated(150, mains, seed, [8, 25])));
  rows.push([
    `better night, 150 stations on ${mains} mains, 2 s (median of 5 sites)`,
    "within 5 % of the bound",
    `${percentOver(median(found))} (worst ${percentOver(Math.max(...found))})`,
  ]);
}
for (const site of demoSites().filter((s) => plan(s, DATE).runs.length > 0)) {
  const { ratio, outOfReach } = better(site);
  rows.push([
    `better night, ${site.site.name}, ${site.stations.length} stations, 2 s`,
    "within 3 % at 60 stations, 5 % at 150",
    `${percentOver(ratio)}; ${Math.round(100 * outOfReach)} % of what it takes over its litres is known to be out of reach`,
  ]);
}

const night = plan(large, DATE);
const hours = night.makespanS / 3600;
const whole = time(3, (i) => {
  simulate(large, { date: DATE, seed: i + 1 });
});
rows.push([
  `bench at one-second steps, 200 stations, a night of ${hours.toFixed(1)} h, scaled to 8 h`,
  "under 250 ms, the first under 600",
  told({ first: (whole.first / hours) * 8, warm: (whole.warm / hours) * 8 }),
]);

const park = parseSiteOrThrow(lakesidePark());
const works = waterworks(park);
const network = networkModel(park);
const played = playNight(works, DATE);
const sets = nightSets(works, network, played.runs, flowMoments(works, played, [...played.runs])).slice(0, 60);
const solving: number[] = [];
for (let i = 0; i < 5; i++) {
  const begin = performance.now();
  await solveSets(
    network,
    sets.map((s) => s.set),
  );
  solving.push(performance.now() - begin);
}
rows.push([
  `pressures of ${sets.length} different sets, ${park.stations.length} stations`,
  "under 2 s",
  `${median(solving).toFixed(0)} ms (the first ${(solving[0] as number).toFixed(0)} ms)`,
]);

const empty: SiteFile = { ...large, stations: [], programs: [] };
const text = [
  "No.\tName\tDesign\tEmitter",
  ...Array.from({ length: 2000 }, (_, i) => `${i + 1}\tStation ${i + 1}\t${20 + (i % 90)}\tspray`),
].join("\n");
rows.push([
  "2,000 station rows pasted or imported",
  "under 2 s",
  told(
    time(3, () => {
      const r = pasteStations(empty, text, { row: 0, column: 0 }, "metric");
      if (!r.ok) throw new Error(r.refused[0]);
    }),
  ),
]);

const judged = generated(60, 4, 7, [8, 25]);
const begun = performance.now();
const policies = SCHOOLS.slice(0, 3).map((school) => ({ name: school.id, policy: policyFrom(judged, school) }));
const cells = sweepFaults(judged, { date: DATE, kinds: SWEPT, policies }) ?? [];
rows.push([
  `fault sweep, 60 stations × 5 faults × 3 policies (${cells.length} nights), one core`,
  "under 120 s of one core (60 s with two)",
  `${((performance.now() - begun) / 1000).toFixed(1)} s`,
]);

const wanted = 1000;
const broken: string[] = [];
const nights = performance.now();
for (const one of fc.sample(faultNight({ min: 3, max: 14 }), { numRuns: wanted, seed: 11 }))
  broken.push(...brokenRules(one));
rows.push([
  `${wanted} random nights with one fault each: rules broken`,
  "none",
  `${broken.length}${broken[0] ? ` (${broken[0]})` : ""}, in ${((performance.now() - nights) / 1000).toFixed(0)} s`,
]);

const compared = time(3, () => {
  comparedSchools(park, DATE);
});
rows.push([
  `starting points compared, ${park.stations.length} stations, 60 nights`,
  "with progress",
  `${(compared.warm / 1000).toFixed(1)} s, the first ${(compared.first / 1000).toFixed(1)} s`,
]);

console.log(`Node ${process.version}, ${cpus().length} × ${cpus()[0]?.model ?? "processor"}\n`);
console.log("| what | to keep | measured |\n|---|---|---|");
for (const row of rows) console.log(`| ${row.join(" | ")} |`);
