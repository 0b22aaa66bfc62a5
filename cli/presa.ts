import { readFileSync, renameSync, writeFileSync } from "node:fs";
import { parseArgs } from "node:util";
import { z } from "zod";
import { simulate } from "../core/bench/simulate.ts";
import { localDate, localIso } from "../core/dates/wall-time.ts";
import { ceilings } from "../core/ceilings/ceilings.ts";
import { check } from "../core/check/check.ts";
import { plan } from "../core/dispatch/plan.ts";
import { csvLine } from "../core/exports/csv.ts";
import type { PressureStudy } from "../core/hydraulics/pressures.ts";
import { learn } from "../core/learn/learn.ts";
import { comparePolicies, readPolicies } from "../core/limits/compare.ts";
import { betterNight } from "../core/optimize/better-night.ts";
import { calibrate, type CalibrateRefusal } from "../core/sensors/calibrate.ts";
import { type FileProblem, parseSiteText, pathText } from "../core/site-file/parse-site.ts";
import type { SiteFile } from "../core/site-file/schema.ts";

const USAGE = `Presa computes from one site file; it opens no real valves.

  presa check FILE
  presa ceilings FILE
  presa pressures FILE [--date D]
  presa inp FILE
  presa plan FILE --date YYYY-MM-DD [--optimize] [--seconds S]
  presa learn FILE [--stations a,b] [--faults F] [--seed N] [--date D] [--exact]
  presa simulate FILE --date D [--faults F] [--seed N] [--exact] [--readings OUT.csv]
  presa compare FILE --date D --faults F --policies P [--seed N] [--exact]
  presa calibrate TESTS

One JSON document on standard output (inp: an EPANET input file), words on standard error.
Exit 0 done; 1 the file or the request is wrong; 2 used wrongly.
`;

class UsageError extends Error {}
class RequestError extends Error {
  readonly problem: { code: string; path: string; message: string };
  constructor(problem: { code: string; path: string; message: string }) {
    super(problem.message);
    this.problem = problem;
  }
}

async function main(argv: string[]): Promise<number> {
  let parsed: ReturnType<typeof readArguments>;
  try {
    parsed = readArguments(argv);
  } catch (error) {
    throw new UsageError(error instanceof Error ? error.message : String(error));
  }
  const { values, positionals } = parsed;
  if (values.help) {
    process.stderr.write(USAGE);
    return 0;
  }
  const [command, file, ...rest] = positionals;
  if (!command) throw new UsageError("no command");
  if (!file || rest.length > 0) throw new UsageError(`${command} takes one file`);
  switch (command) {
    case "check": {
      const site = readSite(file);
      const { pressureFindings } = await import("../core/check/pressure.ts");
      const findings = [...check(site), ...(await pressureFindings(site))];
      print({ findings });
      for (const f of findings) say(`${f.severity}: ${f.message}`);
      return findings.some((f) => f.severity === "error") ? 1 : 0;
    }
    case "ceilings":
      print({ elements: ceilings(readSite(file)) });
      return 0;
    case "pressures": {
      const site = readSite(file);
      const { pressureStudy } = await import("../core/hydraulics/pressures.ts");
      print(pressuresOut(site, await pressureStudy(site, values.date === undefined ? null : needDate(values.date))));
      return 0;
    }
    case "inp": {
      const { exportInp } = await import("../core/hydraulics/inp-write.ts");
      process.stdout.write(exportInp(readSite(file)));
      return 0;
    }
    case "plan": {
      const site = readSite(file);
      const date = needDate(values.date);
      if (values.optimize) {
        const until =
          performance.now() + 1000 * (values.seconds === undefined ? 2 : positive(values.seconds, "--seconds"));
        print(betterNight(site, date, { seed: 1, shouldStop: () => performance.now() >= until }));
      } else print(plan(site, date));
      return 0;
    }
    case "learn": {
      const site = readSite(file);
      const outcome = learn(site, {
        date: values.date === undefined ? "2001-01-01" : needDate(values.date),
        ...(values.stations === undefined ? {} : { stationIds: values.stations.split(",").filter((s) => s !== "") }),
        ...(values.faults === undefined ? {} : { faults: readJson(values.faults) }),
        ...(values.seed === undefined ? {} : { seed: wholeNumber(values.seed, "--seed") }),
        exact: values.exact === true,
      });
      if (!outcome.ok) throw new RequestError(outcome.problem);
      print(outcome.result);
      return 0;
    }
    case "simulate": {
      const site = readSite(file);
      const rows: string[] = [];
      const outcome = simulate(site, {
        date: needDate(values.date),
        ...(values.faults === undefined ? {} : { faults: readJson(values.faults) }),
        ...(values.seed === undefined ? {} : { seed: wholeNumber(values.seed, "--seed") }),
        exact: values.exact === true,
        ...(values.readings === undefined
          ? {}
          : {
              onSecond: (row) =>
                rows.push(
                  [
                    localIso(site.site.timeZone, row.at),
                    ...row.readingLpm.map((r) => r.toFixed(2)),
                    row.expectedLpm.toFixed(2),
                    row.highLpm?.toFixed(2) ?? "",
                    row.lowLpm?.toFixed(2) ?? "",
                  ].join(","),
                ),
            }),
      });
      if (!outcome.ok)
        throw new RequestError(
          "problem" in outcome ? outcome.problem : { code: "cancelled", path: "", message: "Cancelled." },
        );
      if (values.readings !== undefined)
        writeWhole(
          values.readings,
          `${csvLine(["at", ...site.pocs.map((p) => `${p.id} L/min`), "expected L/min", "high L/min", "low L/min"])}\n${rows.join("\n")}\n`,
        );
      const { trace: _, ...result } = outcome.result;
      print(result);
      return 0;
    }
    case "compare": {
      const site = readSite(file);
      if (values.faults === undefined || values.policies === undefined)
        throw new UsageError("compare needs --faults and --policies");
      const asked = readPolicies(site, readJson(values.policies));
      if (!asked.ok) throw new RequestError(asked.problem);
      const outcome = comparePolicies(site, {
        date: needDate(values.date),
        faults: readJson(values.faults),
        policies: asked.policies,
        exact: values.exact === true,
        ...(values.seed === undefined ? {} : { seed: wholeNumber(values.seed, "--seed") }),
      });
      if (!outcome.ok)
        throw new RequestError(
          "problem" in outcome ? outcome.problem : { code: "cancelled", path: "", message: "Cancelled." },
        );
      print({ rows: outcome.rows });
      return 0;
    }
    case "calibrate": {
      const outcome = calibrate(readTests(file));
      if (!outcome.ok)
        throw new RequestError({
          code: outcome.refusal.code,
          path: outcome.refusal.path,
          message: REFUSALS[outcome.refusal.code],
        });
      print(outcome.value);
      return 0;
    }
    default:
      throw new UsageError(`there is no command "${command}"`);
  }
}

/** Instants as everywhere in the output: local ISO 8601 with offset. */
function pressuresOut(site: SiteFile, study: PressureStudy): unknown {
  return {
    ...study,
    night: study.night.map((n) => ({ ...n, at: n.at === null ? null : localIso(site.site.timeZone, n.at) })),
  };
}

function readArguments(argv: string[]) {
  return parseArgs({
    args: argv,
    allowPositionals: true,
    options: {
      date: { type: "string" },
      optimize: { type: "boolean" },
      seconds: { type: "string" },
      stations: { type: "string" },
      faults: { type: "string" },
      policies: { type: "string" },
      seed: { type: "string" },
      exact: { type: "boolean" },
      readings: { type: "string" },
      help: { type: "boolean", short: "h" },
    },
  });
}

const REFUSALS: Record<CalibrateRefusal["code"], string> = {
  noTests: "There is no test to fit. Run a steady flow and read the meter over a measured time.",
  testNotPositive: "Hz, litres and seconds of a test must all be above 0.",
  kMissing: "One test alone only scales K, so the present kGpm is needed.",
  flowsTooClose:
    "The tests' flows lie within 1.5 × of each other: a line through them means nothing. Add a test at another flow.",
  slopeNotPositive: "The fitted slope is not above 0: check that readings and frequencies belong together.",
};

const testsSchema = z.strictObject({
  kGpm: z.number().gt(0).optional(),
  offsetHz: z.number().optional(),
  tests: z.array(z.strictObject({ hz: z.number(), litres: z.number(), seconds: z.number() })).max(1000),
});

function readTests(file: string): z.infer<typeof testsSchema> {
  const parsed = testsSchema.safeParse(readJson(file));
  if (parsed.success) return parsed.data;
  const issue = parsed.error.issues[0];
  const extra = issue?.code === "unrecognized_keys" ? [issue.keys[0] as string] : [];
  const path = pathText([...(issue?.path ?? []), ...extra]);
  throw new RequestError({ code: "shape", path, message: `${path}: ${issue?.message ?? "is not right"}` });
}

function readSite(file: string): SiteFile {
  const parsed = parseSiteText(readText(file));
  if (parsed.ok) return parsed.site;
  for (const p of parsed.problems) say(p.message);
  throw new RequestError(parsed.problems[0] as FileProblem);
}

function readText(file: string): string {
  try {
    return readFileSync(file, "utf8");
  } catch {
    throw new RequestError({
      code: "fileNotReadable",
      path: file,
      message: `The file ${file} cannot be read. Check its name.`,
    });
  }
}

function readJson(file: string): unknown {
  try {
    return JSON.parse(readText(file));
  } catch (error) {
    if (error instanceof RequestError) throw error;
    throw new RequestError({ code: "notJson", path: file, message: `${file} is not a JSON document.` });
  }
}

function needDate(value: string | undefined): string {
  if (value === undefined) throw new UsageError("--date YYYY-MM-DD is needed");
  const noon = Date.parse(`${value}T12:00:00Z`);
  if (!/^\d{4}-\d{2}-\d{2}$/.test(value) || Number.isNaN(noon) || localDate("UTC", noon / 1000) !== value)
    throw new RequestError({
      code: "badDate",
      path: "--date",
      message: `"${value}" is not a date of the calendar, written YYYY-MM-DD.`,
    });
  return value;
}

function positive(text: string, name: string): number {
  const value = Number(text);
  if (!(value > 0 && value <= 3600)) throw new UsageError(`${name} takes a number above 0 and at most 3600`);
  return value;
}

function wholeNumber(text: string, name: string): number {
  if (!/^\d{1,9}$/.test(text)) throw new UsageError(`${name} takes a whole number`);
  return Number(text);
}

/** Written beside and renamed, so that nothing is ever half-written. */
function writeWhole(file: string, text: string): void {
  try {
    writeFileSync(`${file}.part`, text);
    renameSync(`${file}.part`, file);
  } catch {
    throw new RequestError({ code: "fileNotWritable", path: file, message: `The file ${file} cannot be written.` });
  }
}

function print(value: unknown): void {
  process.stdout.write(`${JSON.stringify(value, null, 1)}\n`);
}

function say(text: string): void {
  process.stderr.write(`${text}\n`);
}

try {
  process.exitCode = await main(process.argv.slice(2));
} catch (error) {
  if (error instanceof UsageError) {
    say(`${error.message}\n\n${USAGE}`);
    process.exitCode = 2;
  } else if (error instanceof RequestError) {
    print({ error: error.problem });
    say(error.problem.message);
    process.exitCode = 1;
  } else throw error;
}
