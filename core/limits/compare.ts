import { nth } from "../checked.ts";
import { policySchema } from "../site-file/policy-schema.ts";
import { type Fault, resolveFaults } from "../bench/faults/resolve.ts";
import { type Simulation, simulate } from "../bench/simulate.ts";
import { instantOf } from "../dates/wall-time.ts";
import { Night } from "../dispatch/night.ts";
import { waterworks } from "../network/waterworks.ts";
import { type FileProblem, pathText } from "../site-file/parse-site.ts";
import type { Policy, SiteFile } from "../site-file/schema.ts";
import { SCHOOLS, policyFrom } from "./schools.ts";

/** What one policy did on a night with faults (site-file#commands). */
export type ComparedPolicy = {
  policy: string;
  /** Limits that tripped with the faults, and on the same night without them. */
  trips: number;
  falseTrips: number;
  /** From the moment a fault did anything to the lockout or stop that ended it, the longest of the faults; null where one was never isolated. */
  secondsToIsolate: number | null;
  litresLost: number;
  minutesNotWatered: number;
  /** What it locked out, and what it only told. */
  lockouts: string[];
  alarms: number;
};

/** Starting points by name, or whole policies. */
export type AskedPolicy = { name: string; policy: Policy };

/** `--policies`: a list of names of starting points, of policies (with a `name` if wanted), or of both. */
export function readPolicies(
  site: SiteFile,
  value: unknown,
): { ok: true; policies: AskedPolicy[] } | { ok: false; problem: FileProblem } {
  const refuse = (path: string, message: string): { ok: false; problem: FileProblem } => ({
    ok: false,
    problem: { code: "shape", path, message: `${path}: ${message}` },
  });
  if (!Array.isArray(value) || value.length === 0)
    return refuse("policies", "must be a list of at least one policy or name of a starting point");
  const policies: AskedPolicy[] = [];
  for (const [i, one] of value.entries()) {
    if (typeof one === "string") {
      const school = SCHOOLS.find((s) => s.id === one.toLowerCase());
      if (!school) return refuse(`policies[${i}]`, `"${one}" is none of ${SCHOOLS.map((s) => s.id).join(", ")}`);
      policies.push({ name: school.id, policy: policyFrom(site, school) });
      continue;
    }
    const { name, ...rest } = (one ?? {}) as { name?: unknown };
    const parsed = policySchema.safeParse(rest);
    if (!parsed.success) {
      const issue = parsed.error.issues[0];
      const extra = issue?.code === "unrecognized_keys" ? [nth(issue.keys, 0)] : [];
      return refuse(
        `policies[${i}]${pathText([...(issue?.path ?? []), ...extra]).replace(/^(?=[^[.])/, ".")}`,
        issue?.message ?? "is not right",
      );
    }
    policies.push({
      name: typeof name === "string" ? name : (parsed.data.preset ?? `policy ${i + 1}`),
      policy: parsed.data,
    });
  }
  return { ok: true, policies };
}

/** The same night, with and without its faults, under each policy. */
export function comparePolicies(
  site: SiteFile,
  options: {
    date: string;
    faults: unknown;
    policies: readonly AskedPolicy[];
    seed?: number;
    exact?: boolean;
    onProgress?: (share: number) => boolean;
  },
): { ok: true; rows: ComparedPolicy[] } | { ok: false; problem: FileProblem } | { ok: false; cancelled: true } {
  const resolved = resolveFaults(
    site,
    options.faults,
    options.date,
    new Night(waterworks(site), options.date).starts[0]?.at ?? instantOf(site.site.timeZone, options.date, "00:00"),
  );
  if (!resolved.ok) return resolved;
  const rows: ComparedPolicy[] = [];
  const night = {
    date: options.date,
    ...(options.seed === undefined ? {} : { seed: options.seed }),
    exact: options.exact ?? false,
  };
  for (const [i, { name, policy }] of options.policies.entries()) {
    if (options.onProgress?.(i / options.policies.length) === false) return { ok: false, cancelled: true };
    const judged = { ...site, policy };
    const faulty = simulate(judged, { ...night, faults: options.faults });
    if (!faulty.ok) return faulty;
    const calm = simulate(judged, night);
    if (!calm.ok) return calm;
    const { result } = faulty;
    rows.push({
      policy: name,
      trips: tripsOf(result),
      falseTrips: tripsOf(calm.result),
      secondsToIsolate: isolatedAfter(site, result, resolved.faults),
      litresLost: Math.round(10 * result.totals.lostL) / 10,
      minutesNotWatered: Math.round(100 * result.unwatered.reduce((sum, u) => sum + u.minutes, 0)) / 100,
      lockouts: result.lockouts,
      alarms: result.alarms.length,
    });
  }
  return { ok: true, rows };
}

/** Limits that tripped: flow limits by event, burst, off-schedule and pump by alarm. */
function tripsOf(night: Simulation): number {
  return (
    night.events.filter((e) => e.type === "trip").length +
    night.alarms.filter((a) => a.kind === "burst" || a.kind === "offSchedule" || a.kind === "pumpNoFlow").length
  );
}

/** The slowest of the faults: from when it began to act (a station's: when its station ran) to the first lockout or stop of what it sits on; null where one never was. */
function isolatedAfter(site: SiteFile, night: Simulation, faults: readonly Fault[]): number | null {
  const w = waterworks(site);
  const at = (iso: string): number => Date.parse(iso) / 1000;
  let worst = 0;
  for (const f of faults) {
    const station = w.stationIndex.get(f.subjectId);
    const main = station === undefined ? w.mainlineIndex.get(f.subjectId) : nth(w.stationMainline, station);
    const mains = main === undefined ? [] : (w.mainsAbove[main] ?? []).map((m) => nth(site.mainlines, m).id);
    const pocs =
      main === undefined ? site.pocs.map((p) => p.id) : (w.pocsAbove[main] ?? []).map((p) => nth(site.pocs, p).id);
    const holders = new Set([f.subjectId, ...mains, ...pocs]);
    // A station's fault does nothing until its station runs.
    const acts =
      station === undefined
        ? f.from
        : Math.max(
            f.from,
            Math.min(
              ...night.runs.filter((r) => r.stationId === f.subjectId && at(r.end) > f.from).map((r) => at(r.start)),
            ),
          );
    if (!Number.isFinite(acts)) continue;
    const ended = night.events.find(
      (e) => (e.type === "lockedOut" || e.type === "stopped") && at(e.at) >= acts && holders.has(e.subjectId),
    );
    if (!ended) return null;
    worst = Math.max(worst, at(ended.at) - acts);
  }
  return worst;
}
