import { parseArgs } from "node:util";
import { randomFrom } from "../../core/bench/random.ts";
import { nth } from "../../core/checked.ts";
import { waterworks } from "../../core/network/waterworks.ts";
import type { Finding } from "../../core/reckon/findings.ts";
import { readTogether, reckonMornings } from "../../core/reckon/reckon.ts";
import { type Log, type Stretch, stretchesOf } from "../../core/reckon/stretches.ts";
import type { SiteFile } from "../../core/site-file/schema.ts";
import { dates, nightLog, reckonedSite } from "../../testing/reckoned-nights.ts";

const USAGE = `node --import tsx tools/trials/reckon.ts [--sites N] [--first SEED] [--kind outlet|healthy|sensor|clog] [--nights N] [--before N]

Random sites of 10 to 150 stations, each with one thing wrong that no limit sees, on the real noisy bench: what the first morning says, and the third; with --before, after so many nights with nothing wrong. Seeds 1 to 999 were for
tuning; what is reported comes from seeds over 1000.
`;
const { values } = parseArgs({
  options: {
    sites: { type: "string", default: "20" },
    first: { type: "string", default: "1001" },
    kind: { type: "string", default: "outlet" },
    nights: { type: "string", default: "3" },
    before: { type: "string", default: "0" },
    help: { type: "boolean" },
  },
});
if (values.help) {
  process.stdout.write(USAGE);
  process.exit(0);
}
const [sites, first, nights, before] = [values.sites, values.first, values.nights, values.before].map(Number) as [
  number,
  number,
  number,
  number,
];
const FROM = "2026-07-01";
/** L/min of one broken outlet, by what outlets there are. */
const OUTLETS = [8, 12, 15, 45];

type Wrong = { id: string; faults: (night: number) => unknown[]; share: number };

/** What is wrong with a site, and which share of the smallest set it runs in that is. */
function wrongWith(ground: SiteFile, stretches: readonly Stretch[], random: () => number): Wrong {
  const place = Math.floor(random() * ground.stations.length);
  const station = nth(ground.stations, place);
  const sums = stretches.filter((s) => s.set.includes(place)).map((s) => s.meanLpm);
  const smallest = sums.length > 0 ? Math.min(...sums) : Number.POSITIVE_INFINITY;
  const size = nth(OUTLETS, Math.floor(random() * OUTLETS.length));
  if (values.kind === "sensor") {
    const sensor = nth(ground.pocs, 0).devices.find((d) => d.kind === "flowSensor")?.id ?? "";
    const by = random() < 0.5 ? 1.12 : 0.88;
    return { id: sensor, share: 0.12, faults: () => [{ kind: "wrongK", subjectId: sensor, at: "00:00:00", size: by }] };
  }
  if (values.kind === "healthy") return { id: "", share: 0, faults: () => [] };
  if (values.kind === "clog")
    return {
      id: station.id,
      share: 0.2,
      faults: (n) =>
        n === 0 ? [] : [{ kind: "clogged", subjectId: station.id, at: "00:00:00", size: (0.2 * n) / nights }],
    };
  return {
    id: station.id,
    share: size / smallest,
    faults: () => [{ kind: "brokenOutlet", subjectId: station.id, at: "00:00:00", size }],
  };
}

const rightly = (found: readonly Finding[], wrong: Wrong): boolean =>
  found.some((f) => f.certain && f.subjectIds.includes(wrong.id));
const falsely = (found: readonly Finding[], wrong: Wrong, apart: readonly string[][]): Finding[] => {
  const group = apart.find((g) => g.includes(wrong.id)) ?? [wrong.id];
  return found.filter((f) => f.certain && !f.subjectIds.some((id) => group.includes(id)));
};

type Tried = {
  seed: number;
  stations: number;
  share: number;
  firstMorning: boolean;
  lastMorning: boolean;
  named: string;
  wrongly: string[];
};
const tried: Tried[] = [];
for (let seed = first; seed < first + sites; seed++) {
  const random = randomFrom(seed * 7919);
  const stations = 10 + Math.floor(140 * random() ** 2);
  const { ground, known } = reckonedSite(seed, stations);
  const w = waterworks(known);
  const calm = stretchesOf(w, nightLog(ground, FROM, [], seed)).stretches;
  const wrong = wrongWith(ground, calm, random);
  const logs: Log[] = dates(FROM, before + nights).map((date, n) =>
    nightLog(ground, date, n < before ? [] : wrong.faults(n - before), 1000 * seed + n),
  );
  const mornings: Finding[][] = [];
  let apart: string[][] = [];
  for (const { reckoning } of reckonMornings(w, readTogether(w, logs))) {
    mornings.push(reckoning.found);
    apart = reckoning.neverApart;
  }
  const last = mornings.at(-1) ?? [];
  const one: Tried = {
    seed,
    stations,
    share: wrong.share,
    firstMorning: rightly(mornings[before] ?? [], wrong),
    lastMorning: rightly(last, wrong),
    named: last
      .map(
        (f) =>
          `${f.kind} ${f.subjectIds.join("/")} ${f.changeLpm.toFixed(2)} z ${f.z.toFixed(1)}${f.certain ? "" : " ?"}`,
      )
      .join("; "),
    // Whatever was said on any morning, once.
    wrongly: [
      ...new Map(
        mornings.flatMap((m) => falsely(m, wrong, apart)).map((f) => [`${f.kind} ${f.subjectIds.join("/")}`, f]),
      ),
    ].map(([what, f]) => `${what} ${f.changeLpm.toFixed(2)} z ${f.z.toFixed(1)} since ${f.since.slice(0, 10)}`),
  };
  tried.push(one);
  process.stderr.write(`${JSON.stringify({ ...one, wrong: wrong.id })}\n`);
}
const share = (of: Tried[], which: (t: Tried) => boolean): string => `${of.filter(which).length} of ${of.length}`;
const bands: [string, (t: Tried) => boolean][] = [
  ["4 % and more", (t) => t.share >= 0.04],
  ["2 to 4 %", (t) => t.share >= 0.02 && t.share < 0.04],
  ["under 2 %", (t) => t.share < 0.02],
];
for (const [name, fits] of bands) {
  const of = tried.filter(fits);
  if (of.length > 0)
    console.log(
      `${values.kind}, ${name} of the smallest set: first morning ${share(of, (t) => t.firstMorning)}, morning ${nights} ${share(of, (t) => t.lastMorning)}`,
    );
}
console.log(`named wrongly: ${tried.reduce((sum, t) => sum + t.wrongly.length, 0)} in ${tried.length} sites`);
