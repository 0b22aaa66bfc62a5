import { parseArgs } from "node:util";
import { type Tried, TRIED, type TrialOf, tryReckoning } from "../../testing/reckoned-trial.ts";

const USAGE = `node --import tsx tools/trials/reckon.ts [--kind outlet|midNight|sensor|clog|healthy] [--sites N] [--first SEED] [--nights N] [--before N]

Random sites of 10 to 150 stations, each with one thing wrong that no limit sees, on the real noisy bench: what the first morning says, and the last; with --before, after so
many nights with nothing wrong. Without --kind all of them, as npm run bench prints them, about an hour. Seeds 1 to 999 were for tuning; what is reported comes from seeds over 1000.
`;
const string = { type: "string" } as const;
const { values } = parseArgs({
  options: { kind: string, sites: string, first: string, nights: string, before: string, help: { type: "boolean" } },
});
if (values.help) {
  process.stdout.write(USAGE);
  process.exit(0);
}

type Asked = Omit<TrialOf, "seed"> & { sites: number };
const number = (given: string | undefined, usual: number): number => (given === undefined ? usual : Number(given));
const FIRST = number(values.first, 1001);
const ALL: Asked[] = [
  { kind: "outlet", sites: 100, nights: 3, before: 0 },
  { kind: "outlet", sites: 100, nights: 3, before: 7 },
  { kind: "midNight", sites: 50, nights: 3, before: 7 },
  { kind: "sensor", sites: 40, nights: 3, before: 0 },
  { kind: "clog", sites: 20, nights: 30, before: 0 },
  { kind: "healthy", sites: 20, nights: 60, before: 0 },
];
const kind = TRIED.find((k) => k === values.kind);
if (values.kind !== undefined && kind === undefined) {
  process.stderr.write(`There is no kind "${values.kind}": ${TRIED.join(", ")}.\n`);
  process.exit(2);
}
const asked: Asked[] = kind
  ? [{ kind, sites: number(values.sites, 20), nights: number(values.nights, 3), before: number(values.before, 0) }]
  : ALL;

const BANDS: [string, (t: Tried) => boolean][] = [
  ["4 % and more", (t) => t.share >= 0.04],
  ["2 to 4 %", (t) => t.share >= 0.02 && t.share < 0.04],
  ["under 2 %", (t) => t.share < 0.02],
];
const share = (of: Tried[], which: (t: Tried) => boolean): string => `${of.filter(which).length} of ${of.length}`;

for (const { sites, ...of } of asked) {
  const tried: Tried[] = [];
  for (let seed = FIRST; seed < FIRST + sites; seed++) {
    const one = tryReckoning({ ...of, seed });
    tried.push(one);
    if (kind) process.stderr.write(`${JSON.stringify(one)}\n`);
  }
  const after = of.before > 0 ? `, after ${of.before} nights with nothing wrong` : "";
  if (of.kind !== "healthy")
    for (const [name, fits] of BANDS) {
      const these = tried.filter(fits);
      const [first, last] = [share(these, (t) => t.firstMorning), share(these, (t) => t.lastMorning)];
      if (these.length > 0)
        console.log(
          `${of.kind}, ${name} of the smallest set${after}: first morning ${first}, morning ${of.nights} ${last}`,
        );
    }
  const wrongly = tried.reduce((sum, t) => sum + t.wrongly.length, 0);
  console.log(`${of.kind}, ${of.nights + of.before} nights: ${wrongly} named wrongly in ${sites} sites`);
}
