import { type ReadingRow, simulate } from "../core/bench/simulate.ts";
import { ceilings } from "../core/ceilings/ceilings.ts";
import { check } from "../core/check/check.ts";
import { localIso } from "../core/dates/wall-time.ts";
import { plan } from "../core/dispatch/plan.ts";
import { csvLine } from "../core/exports/csv.ts";
import type { PressureStudy } from "../core/hydraulics/pressures.ts";
import { learn } from "../core/learn/learn.ts";
import { outOfUse } from "../core/network/in-use.ts";
import { limitsByBudget } from "../core/limits/budget/budget.ts";
import type { BudgetAssumptions } from "../core/limits/budget/ground.ts";
import { comparePolicies, readPolicies } from "../core/limits/compare.ts";
import { waterworks } from "../core/network/waterworks.ts";
import { findingWords } from "../core/reckon/finding-words.ts";
import { readLog } from "../core/reckon/read-log.ts";
import { reckon } from "../core/reckon/reckon.ts";
import type { Log } from "../core/reckon/stretches.ts";
import { betterNight, settingsOf } from "../core/optimize/better-night.ts";
import { type PartedNight, partedNights } from "../core/optimize/parted-night.ts";
import { watchableNights } from "../core/optimize/watchable.ts";
import type { Watched } from "../core/optimize/watched-night.ts";
import { INVENTED } from "../core/profiles/profile.ts";
import { calibrate, type CalibrateRefusal } from "../core/sensors/calibrate.ts";
import type { SiteFile } from "../core/site-file/schema.ts";
import { limitsOut, settingsOut } from "./limits-out.ts";
import {
  needDate,
  positive,
  readJson,
  readSite,
  readTests,
  readText,
  RequestError,
  say,
  UsageError,
  wholeNumber,
  writeWhole,
} from "./input.ts";

export type Values = {
  date?: string | undefined;
  optimize?: boolean | undefined;
  seconds?: string | undefined;
  stations?: string | undefined;
  faults?: string | undefined;
  policies?: string | undefined;
  seed?: string | undefined;
  exact?: boolean | undefined;
  readings?: string[] | undefined;
  trips?: string | undefined;
  count?: string | undefined;
  every?: boolean | undefined;
};
/** What a command writes on standard output, as JSON or as it is; and its exit code. */
export type Written = { json: unknown; exit?: 0 | 1 } | { text: string };
type Command = (file: string, values: Values) => Written | Promise<Written>;

const DEFAULT_SECONDS = 2;
const SECONDS_OF_LIMITS = 20;
const SECONDS_OF_PARTING = 20;
/** Nights, limits for two of them, and nights under those. */
const SECONDS_OF_WATCHING = 45;
const DAY_OF_LEARNING = "2001-01-01";

const seconds = ({ seconds: asked }: Values, usual: number): number =>
  asked === undefined ? usual : positive(asked, "--seconds");

const tripsOf = ({ trips }: Values): number => (trips === undefined ? 1 : positive(trips, "--trips"));

const watchedOut = ({ makespanS, stations, lateralsSeen, lateralsSeenInEvery, watched }: Watched): Watched => ({
  makespanS,
  stations,
  lateralsSeen,
  lateralsSeenInEvery,
  watched,
});

/** Only breaks of one kind count. */
function counting(kind: string): Partial<BudgetAssumptions> {
  if (kind === "lateral") return { outletsPer100: 0 };
  if (kind === "outlet") return { lateralsPer100: 0 };
  throw new UsageError(`--count takes lateral or outlet, not "${kind}"`);
}

/** Every command by its name (site-file#commands). */
export const COMMANDS: Readonly<Record<string, Command>> = {
  async check(file) {
    const site = readSite(file);
    const { pressureFindings } = await import("../core/check/pressure.ts");
    const findings = [...check(site), ...(await pressureFindings(site))];
    for (const f of findings) say(`${f.severity}: ${f.message}`);
    return { json: { findings }, exit: findings.some((f) => f.severity === "error") ? 1 : 0 };
  },

  ceilings(file) {
    const site = readSite(file);
    const off = outOfUse(site);
    return { json: { elements: ceilings(site).filter((c) => !off.has(c.id)) } };
  },

  async pressures(file, { date }) {
    const site = readSite(file);
    const { pressureStudy } = await import("../core/hydraulics/pressures.ts");
    return { json: pressuresOut(site, await pressureStudy(site, date === undefined ? null : needDate(date))) };
  },

  async inp(file) {
    const { exportInp } = await import("../core/hydraulics/inp-write.ts");
    return { text: exportInp(readSite(file)) };
  },

  plan(file, values) {
    const site = readSite(file);
    const date = needDate(values.date);
    if (!values.optimize) return { json: plan(site, date) };
    const until = performance.now() + 1000 * seconds(values, DEFAULT_SECONDS);
    return { json: betterNight(site, date, { seed: 1, shouldStop: () => performance.now() >= until }) };
  },

  learn(file, values) {
    const outcome = learn(readSite(file), {
      date: values.date === undefined ? DAY_OF_LEARNING : needDate(values.date),
      ...(values.stations === undefined ? {} : { stationIds: values.stations.split(",").filter((s) => s !== "") }),
      ...playing(values),
    });
    if (!outcome.ok) throw new RequestError(outcome.problem);
    return { json: outcome.result };
  },

  simulate(file, values) {
    const site = readSite(file);
    const [readings, ...more] = values.readings ?? [];
    if (more.length > 0) throw new UsageError("simulate writes one --readings file");
    const rows: string[] = [];
    const outcome = simulate(site, {
      date: needDate(values.date),
      ...playing(values),
      ...(readings === undefined ? {} : { onSecond: (row) => rows.push(readingLine(site, row)) }),
    });
    if (!outcome.ok) throw refused(outcome);
    if (readings !== undefined) {
      const flows = site.pocs.map((p) => `${p.id} L/min`);
      const heading = csvLine(["at", ...flows, "expected L/min", "high L/min", "low L/min", "station"]);
      writeWhole(readings, `${heading}\n${rows.join("\n")}\n`);
    }
    const { trace: _, ...result } = outcome.result;
    return { json: result };
  },

  reckon(file, values) {
    const site = readSite(file);
    if (!values.readings) throw new UsageError("reckon needs --readings LOG.csv, once or more often");
    const logs = readLogs(site, values.readings);
    const reckoning = reckon(waterworks(site), logs);
    for (const f of reckoning?.found ?? []) {
      const { head, causes } = findingWords(site, f);
      say(`${head}: ${causes}.`);
    }
    return { json: reckoning };
  },

  limits(file, values) {
    const site = readSite(file);
    const date = needDate(values.date);
    const until = performance.now() + 1000 * seconds(values, SECONDS_OF_LIMITS);
    const found = limitsByBudget(site, date, {
      trips: tripsOf(values),
      ...(values.count === undefined ? {} : { assumed: counting(values.count) }),
      ...(values.seed === undefined ? {} : { seed: wholeNumber(values.seed, "--seed") }),
      profiles: INVENTED,
      shouldStop: () => performance.now() >= until,
    });
    return { json: found && limitsOut(found) };
  },

  watchable(file, values) {
    const site = readSite(file);
    const date = needDate(values.date);
    const [began, most] = [performance.now(), 1000 * seconds(values, SECONDS_OF_WATCHING)];
    const { now, frontier } = watchableNights(site, date, {
      seed: values.seed === undefined ? 1 : wholeNumber(values.seed, "--seed"),
      ...(values.every ? { every: true } : {}),
      budget: { trips: tripsOf(values), profiles: INVENTED },
      shouldStop: (share) => performance.now() >= began + share * most,
    });
    return {
      json: {
        now: watchedOut(now),
        frontier: frontier.map((n) => ({
          ...watchedOut(n),
          ...(n.limits ? { tripsPerSeason: n.limits.tripsPerSeason } : {}),
          settings: {
            ...settingsOf({ ...site, programs: n.programs }),
            ...(n.limits ? settingsOut(n.limits) : {}),
          },
        })),
      },
    };
  },

  apart(file, values) {
    const site = readSite(file);
    const date = needDate(values.date);
    const until = performance.now() + 1000 * seconds(values, SECONDS_OF_PARTING);
    const groups = values.readings && (reckon(waterworks(site), readLogs(site, values.readings))?.neverApart ?? []);
    const { now, free, most } = partedNights(site, date, {
      ...(groups ? { groups } : {}),
      seed: values.seed === undefined ? 1 : wholeNumber(values.seed, "--seed"),
      shouldStop: () => performance.now() >= until,
    });
    const out = ({ programs, ...night }: PartedNight) => ({ ...night, settings: settingsOf({ ...site, programs }) });
    return { json: { now: out(now), free: out(free), most: out(most) } };
  },

  compare(file, values) {
    const site = readSite(file);
    if (values.faults === undefined || values.policies === undefined)
      throw new UsageError("compare needs --faults and --policies");
    const asked = readPolicies(site, readJson(values.policies));
    if (!asked.ok) throw new RequestError(asked.problem);
    const outcome = comparePolicies(site, {
      date: needDate(values.date),
      policies: asked.policies,
      ...playing(values),
      faults: readJson(values.faults),
    });
    if (!outcome.ok) throw refused(outcome);
    return { json: { rows: outcome.rows } };
  },

  calibrate(file) {
    const outcome = calibrate(readTests(file));
    if (outcome.ok) return { json: outcome.value };
    const { code, path } = outcome.refusal;
    throw new RequestError({ code, path, message: REFUSALS[code] });
  },
};

/** Recorders' logs, in the order given. */
function readLogs(site: SiteFile, names: readonly string[]): Log[] {
  return names.map((name) => {
    const read = readLog(site, readText(name));
    if (read.ok) return read.log;
    const path = `${name}:${read.problem.line}`;
    throw new RequestError({ code: "badLog", path, message: `${path}: ${read.problem.message}` });
  });
}

/** How a night or a learning is played. */
function playing({ faults, seed, exact }: Values): { faults?: unknown; seed?: number; exact: boolean } {
  return {
    ...(faults === undefined ? {} : { faults: readJson(faults) }),
    ...(seed === undefined ? {} : { seed: wholeNumber(seed, "--seed") }),
    exact: exact === true,
  };
}

function refused(outcome: { problem: RequestError["problem"] } | object): RequestError {
  return new RequestError(
    "problem" in outcome ? outcome.problem : { code: "cancelled", path: "", message: "Cancelled." },
  );
}

function readingLine(site: SiteFile, row: ReadingRow): string {
  return [
    localIso(site.site.timeZone, row.at),
    ...row.readingLpm.map((r) => r.toFixed(2)),
    row.expectedLpm.toFixed(2),
    row.highLpm?.toFixed(2) ?? "",
    row.lowLpm?.toFixed(2) ?? "",
    row.open.join("+"),
  ].join(",");
}

/** Instants as everywhere in the output: local ISO 8601 with offset. */
function pressuresOut(site: SiteFile, study: PressureStudy): unknown {
  return {
    ...study,
    night: study.night.map((n) => ({ ...n, at: n.at === null ? null : localIso(site.site.timeZone, n.at) })),
  };
}

const REFUSALS: Record<CalibrateRefusal["code"], string> = {
  noTests: "There is no test to fit. Run a steady flow and read the meter over a measured time.",
  testNotPositive: "Hz, litres and seconds of a test must all be above 0.",
  kMissing: "One test alone only scales K, so the present kGpm is needed.",
  flowsTooClose:
    "The tests' flows lie within 1.5 × of each other: a line through them means nothing. Add a test at another flow.",
  slopeNotPositive: "The fitted slope is not above 0: check that readings and frequencies belong together.",
};
