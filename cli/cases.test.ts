import { execFile } from "node:child_process";
import { mkdtempSync, readdirSync, readFileSync, writeFileSync } from "node:fs";
import { tmpdir } from "node:os";
import { join } from "node:path";
import { promisify } from "node:util";
import { describe, expect, it } from "vitest";
import type { Plan } from "../core/dispatch/plan.ts";
import { waterworks } from "../core/network/waterworks.ts";
import { programStarts } from "../core/dispatch/queue.ts";
import { parseSiteOrThrow } from "../core/site-file/parse-site.ts";
import { applyCheck, type CaseCheck } from "../testing/case-checks.ts";
import { planFaults } from "../testing/feasible-plan.ts";
import { smallSite } from "../testing/small-site.ts";

const run = promisify(execFile);
const root = join(import.meta.dirname, "..");
const folders = [join(root, "cases"), join(root, "../shared/cases")].flatMap((folder) => {
  try {
    return readdirSync(folder, { withFileTypes: true })
      .filter((d) => d.isDirectory())
      .map((d) => ({ folder, name: d.name }));
  } catch {
    return [];
  }
});
const cases = [...new Map(folders.map((c) => [c.name, c])).values()];

type Request = { command: string; date?: string; faults?: unknown; tests?: unknown; args?: string[] };

async function presa(args: string[]): Promise<{ exit: number; document: unknown }> {
  const done = await run(join(root, "bin/presa"), args, { maxBuffer: 1e8 }).catch(
    (error: { code: number; stdout: string }) => ({ ...error, failed: true }),
  );
  return { exit: "failed" in done ? (done as unknown as { code: number }).code : 0, document: JSON.parse(done.stdout) };
}

describe("worked cases through the command line", () => {
  it("finds the cases", () => {
    expect(cases.length).toBeGreaterThanOrEqual(12);
  });

  it.each(cases.map((c) => [c.name, c] as const))(
    "%s",
    async (_, { folder, name }) => {
      const read = (file: string) => JSON.parse(readFileSync(join(folder, name, file), "utf8"));
      const request: Request = read("request.json");
      const expected: { exit: number; checks: CaseCheck[] } = read("expected.json");
      const scratch = mkdtempSync(join(tmpdir(), "presa-case-"));
      const scratchFile = (file: string, value: unknown): string => {
        writeFileSync(join(scratch, file), JSON.stringify(value));
        return join(scratch, file);
      };
      const subject = request.tests ? scratchFile("tests.json", request.tests) : join(folder, name, "site.json");
      const { exit, document } = await presa([
        request.command,
        subject,
        ...(request.date ? ["--date", request.date] : []),
        ...(request.faults ? ["--faults", scratchFile("faults.json", request.faults)] : []),
        ...(request.args ?? []),
      ]);
      expect(exit).toBe(expected.exit);
      for (const check of expected.checks) {
        if (check["feasiblePlan"]) {
          const site = parseSiteOrThrow(read("site.json"));
          const due = new Map<string, number>();
          for (const start of programStarts(waterworks(site), request.date as string))
            for (const e of start.entries) {
              const key = `${site.stations[e.station]?.id}|${site.programs[e.program]?.id}`;
              due.set(key, (due.get(key) ?? 0) + e.cycles.reduce((a, b) => a + b, 0));
            }
          expect(planFaults(site, document as Plan, due)).toEqual([]);
        } else applyCheck(document, check);
      }
    },
    60_000,
  );
});

describe("what simulate writes, reckon reads", () => {
  it("as one night of its stretches; a log that is none is refused with its line", async () => {
    const scratch = mkdtempSync(join(tmpdir(), "presa-reckon-"));
    const [file, log, bad] = ["site.json", "log.csv", "bad.csv"].map((f) => join(scratch, f)) as [
      string,
      string,
      string,
    ];
    writeFileSync(file, JSON.stringify(smallSite()));
    await presa(["simulate", file, "--date", "2026-07-14", "--readings", log]);
    const { exit, document } = await presa(["reckon", file, "--readings", log]);
    expect(exit).toBe(0);
    expect(document).toMatchObject({ nights: 1, found: [], neverApart: [["s1", "s3"]] });
    expect((document as { stations: { seenAlone: number; seenInSets: number }[] }).stations).toHaveLength(3);
    writeFileSync(bad, "time,flow L/min,station\nyesterday,5,1\n");
    const refused = await presa(["reckon", file, "--readings", log, "--readings", bad]);
    expect(refused).toMatchObject({ exit: 1, document: { error: { code: "badLog", path: `${bad}:2` } } });
  }, 60_000);
});

describe("limits by budget and nights that can be watched, from the command line", () => {
  const folder = mkdtempSync(join(tmpdir(), "presa-limits-"));
  const file = join(folder, "site.json");
  writeFileSync(file, JSON.stringify(smallSite()));
  const figures = {
    tripsPerSeason: expect.any(Number),
    low: expect.any(Number),
    high: expect.any(Number),
    litresAYear: expect.any(Number),
    lateralsSeen: expect.any(Number),
    outletsSeen: expect.any(Number),
    watched: expect.any(Number),
    policy: expect.objectContaining({ persistenceS: expect.any(Number) }),
  };
  it("limits: what stands, the best within the budget, the curve and the starting points", async () => {
    const asked = ["limits", file, "--date", "2026-07-14", "--trips", "2", "--count", "lateral", "--seed", "3"];
    const { exit, document } = await presa([...asked, "--seconds", "2"]);
    expect(exit).toBe(0);
    expect(document).toMatchObject({ now: figures, best: figures });
    const { best, curve, schools } = document as Record<string, { tripsPerSeason: number }[]> & {
      best: { tripsPerSeason: number };
    };
    expect(best.tripsPerSeason).toBeLessThanOrEqual(2);
    expect(curve?.length).toBeGreaterThan(1);
    expect(schools).toHaveLength(5);
    for (const refused of [
      ["--count", "both"],
      ["--trips", "none"],
    ])
      await expect(
        run(join(root, "bin/presa"), ["limits", file, "--date", "2026-07-14", ...refused]),
      ).rejects.toMatchObject({
        code: 2,
        stdout: "",
      });
  }, 120_000);
  it("watchable: the night as it is, and the frontier with the settings of each", async () => {
    const { exit, document } = await presa(["watchable", file, "--date", "2026-07-14", "--every", "--seconds", "1"]);
    expect(exit).toBe(0);
    expect(document).toMatchObject({
      now: { makespanS: 1200, stations: 3, lateralsSeen: expect.any(Number) },
      frontier: expect.arrayContaining([
        expect.objectContaining({
          lateralsSeenInEvery: expect.any(Number),
          settings: { programs: [expect.objectContaining({ id: "p", order: expect.any(Array) })] },
        }),
      ]),
    });
  }, 60_000);
  it("apart: the night as it is, and the orders that part what always ran together", async () => {
    const { exit, document } = await presa(["apart", file, "--date", "2026-07-14", "--seconds", "1"]);
    expect(exit).toBe(0);
    const night = {
      makespanS: expect.any(Number),
      together: expect.any(Array),
      moved: expect.any(Number),
      settings: { programs: [expect.objectContaining({ id: "p", order: expect.any(Array) })] },
    };
    expect(document).toEqual({ now: { ...night, moved: 0 }, free: night, most: night });
  }, 60_000);
});
