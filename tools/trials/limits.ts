import { parseArgs } from "node:util";
import { limitsByBudget } from "../../core/limits/budget/budget.ts";
import { type BudgetFigures, figuresOf } from "../../core/limits/budget/figures.ts";
import { Ground, USUAL_ASSUMPTIONS } from "../../core/limits/budget/ground.ts";
import { judgedNight } from "../../core/limits/judgement.ts";
import { watchableNights } from "../../core/optimize/watchable.ts";
import { INVENTED } from "../../core/profiles/profile.ts";
import { demoSites } from "../../server/demo/sites.ts";
import type { SiteFile } from "../../core/site-file/schema.ts";
import { reckonedSite } from "../../testing/reckoned-nights.ts";

const USAGE = `node --import tsx tools/trials/limits.ts [--sites N] [--first SEED] [--seconds S]

Random sites of 10 to 150 stations: limits by budget, searched on nights of one seed and reckoned on nights of another, beside the five starting points at the same trips. Seeds under 1000 were for
tuning; what is reported comes from seeds over 1000.
`;
const string = { type: "string" } as const;
const { values } = parseArgs({
  options: { sites: string, first: string, seconds: string, help: { type: "boolean" } },
});
if (values.help) {
  process.stdout.write(USAGE);
  process.exit(0);
}
const number = (given: string | undefined, usual: number): number => (given === undefined ? usual : Number(given));
const [sites, first, seconds] = [number(values.sites, 20), number(values.first, 1001), number(values.seconds, 20)];
const DATE = "2026-07-14";
const CAMPUS = "quarrel-hill";
const SIZES = [10, 24, 40, 60, 90, 150];
const FRESH = 77_001;
/** Of the litres: what two sets of sixty nights may differ by. */
const SAME = 1.005;
/** Fewer trips than this in a season are none. */
const NO_TRIPS = 0.02;

let [won, of] = [0, 0];
const saved: number[] = [];
for (let seed = first; seed < first + sites; seed++) {
  const site = reckonedSite(seed, SIZES[seed % SIZES.length] as number).known;
  const until = performance.now() + 1000 * seconds;
  const found = limitsByBudget(site, DATE, {
    trips: 1,
    profiles: INVENTED,
    shouldStop: () => performance.now() >= until,
  });
  if (!found) continue;
  const fresh = new Ground(judgedNight(site, DATE), USUAL_ASSUMPTIONS, FRESH + seed);
  const figures = (s: SiteFile): BudgetFigures => figuresOf(fresh, s);
  const points = [...found.curve, ...(found.best ? [found.best] : [])].map((p) => figures(p.site));
  const lines = found.schools.map((s) => {
    const school = figures(s.site);
    const least = points
      .filter((p) => p.tripsPerSeason <= Math.max(NO_TRIPS, school.tripsPerSeason))
      .reduce((a, p) => Math.min(a, p.litresAYear), Number.POSITIVE_INFINITY);
    of++;
    if (least <= SAME * school.litresAYear) won++;
    return `${s.id} ${school.tripsPerSeason.toFixed(2)} trips ${school.litresAYear.toFixed(0)} L, at the same ${least.toFixed(0)} L`;
  });
  const best = found.best && figures(found.best.site);
  const calm = found.schools.map((s) => figures(s.site)).filter((f) => f.tripsPerSeason <= 1);
  if (best && calm.length > 0) saved.push(best.litresAYear / Math.min(...calm.map((f) => f.litresAYear)));
  console.log(
    `seed ${seed}, ${site.stations.length} stations: best ${best?.tripsPerSeason.toFixed(2)} trips ${best?.litresAYear.toFixed(0)} L, ${best?.lateralsSeen} laterals and ${best?.outletsSeen} outlets of ${best?.stations} seen`,
  );
  for (const line of lines) console.log(`  ${line}`);
}
// The demo campus, where its limits as they stand are blind to most.
const campus = demoSites().find((s) => s.site.id === CAMPUS);
if (campus) {
  const began = performance.now();
  const { now, frontier } = watchableNights(campus, DATE, {
    seed: 1,
    budget: { trips: 1, profiles: INVENTED },
    shouldStop: (share) => performance.now() >= began + share * 2000 * seconds,
  });
  const best = frontier.reduce((a, b) => (b.lateralsSeen > a.lateralsSeen ? b : a), now);
  const longer = Math.round((best.makespanS - now.makespanS) / 60);
  console.log(
    `${campus.site.name}: ${now.lateralsSeen} of ${now.stations} laterals seen in at least one set as it is; ${best.lateralsSeen} in a night ${Math.abs(longer)} min ${longer < 0 ? "shorter" : "longer"}, at ${(best.limits?.tripsPerSeason ?? 0).toFixed(2)} trips a season`,
  );
}
saved.sort((a, b) => a - b);
console.log(`${won} of ${of} starting points lose no less at the same trips, on fresh nights`);
console.log(
  `with one trip a season the water of the best starting point is lost ${(saved[Math.floor(saved.length / 2)] ?? 1).toFixed(2)} × in the middle, ${(saved.at(-1) ?? 1).toFixed(2)} × at most`,
);
