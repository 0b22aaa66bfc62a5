import { readFileSync, renameSync, writeFileSync } from "node:fs";
import { z } from "zod";
import { localDate } from "../core/dates/wall-time.ts";
import { type FileProblem, parseSiteText, pathText } from "../core/site-file/parse-site.ts";
import type { SiteFile } from "../core/site-file/schema.ts";

/** The command is written wrongly: exit 2. */
export class UsageError extends Error {}
/** The file or what is asked of it is wrong: exit 1. */
export class RequestError extends Error {
  readonly problem: { code: string; path: string; message: string };
  constructor(problem: { code: string; path: string; message: string }) {
    super(problem.message);
    this.problem = problem;
  }
}

const testsSchema = z.strictObject({
  kGpm: z.number().gt(0).optional(),
  offsetHz: z.number().optional(),
  tests: z.array(z.strictObject({ hz: z.number(), litres: z.number(), seconds: z.number() })).max(1000),
});

export function readTests(file: string): z.infer<typeof testsSchema> {
  const parsed = testsSchema.safeParse(readJson(file));
  if (parsed.success) return parsed.data;
  const issue = parsed.error.issues[0];
  const extra = issue?.code === "unrecognized_keys" ? [issue.keys[0] as string] : [];
  const path = pathText([...(issue?.path ?? []), ...extra]);
  throw new RequestError({ code: "shape", path, message: `${path}: ${issue?.message ?? "is not right"}` });
}

export function readSite(file: string): SiteFile {
  const parsed = parseSiteText(readText(file));
  if (parsed.ok) return parsed.site;
  for (const p of parsed.problems) say(p.message);
  throw new RequestError(parsed.problems[0] as FileProblem);
}

export function readText(file: string): string {
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

export function readJson(file: string): unknown {
  try {
    return JSON.parse(readText(file));
  } catch (error) {
    if (error instanceof RequestError) throw error;
    throw new RequestError({ code: "notJson", path: file, message: `${file} is not a JSON document.` });
  }
}

export function needDate(value: string | undefined): string {
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

export function positive(text: string, name: string): number {
  const value = Number(text);
  if (!(value > 0 && value <= 3600)) throw new UsageError(`${name} takes a number above 0 and at most 3600`);
  return value;
}

export function wholeNumber(text: string, name: string): number {
  if (!/^\d{1,9}$/.test(text)) throw new UsageError(`${name} takes a whole number`);
  return Number(text);
}

/** Written beside and renamed, so that nothing is ever half-written. */
export function writeWhole(file: string, text: string): void {
  try {
    writeFileSync(`${file}.part`, text);
    renameSync(`${file}.part`, file);
  } catch {
    throw new RequestError({ code: "fileNotWritable", path: file, message: `The file ${file} cannot be written.` });
  }
}

/** Words for people, on standard error. */
export function say(text: string): void {
  process.stderr.write(`${text}\n`);
}
