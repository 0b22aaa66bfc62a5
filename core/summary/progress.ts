import { check } from "../check/check.ts";
import { staleReasons } from "../learn/basis.ts";
import { waterworks } from "../network/waterworks.ts";
import { expectedFlow } from "../site-file/expected-flow.ts";
import type { SiteFile } from "../site-file/schema.ts";
import type { NightSummary } from "./night-summary.ts";

export const SCREENS = [
  "waterworks",
  "sensors",
  "stations",
  "programs",
  "learn",
  "night",
  "limits",
  "bench",
  "log",
] as const;
export type Screen = (typeof SCREENS)[number];
export type FittingState = "open" | "proven" | "stale";
export type LogState = { openAlarms: number; benchVersion: number | null; version: number };

/** State of every step of the work: open (not done), proven, or stale (something it depended on has changed), with the reason in words. `now`: ISO instant, for what has aged. */
export function progress(
  site: SiteFile,
  summary: NightSummary | null,
  log: LogState,
  now: string,
): Record<Screen, { state: FittingState; why: string }> {
  const findings = check(site).filter((f) => f.severity !== "note");
  const about = (test: RegExp): string | null => findings.find((f) => test.test(f.path))?.message ?? null;
  const step = (open: string | null | false, stale?: string | null | false) =>
    open
      ? { state: "open" as const, why: open }
      : stale
        ? { state: "stale" as const, why: stale }
        : { state: "proven" as const, why: "Nothing open." };
  const sensorIssue = findings.find((f) => /sensor/i.test(f.code))?.message ?? null;
  const bare = site.stations.filter((s) => !expectedFlow(s)).length;
  const unlearned = site.stations.filter((s) => s.monitored !== false && !s.learned).length;
  const w = waterworks(site);
  const stale = site.stations.filter((s) => s.monitored !== false && staleReasons(w, s, now).length > 0).length;
  const drifted = site.stations.filter(
    (s) => s.learned && s.designFlowLpm && Math.abs(s.learned.meanLpm / s.designFlowLpm - 1) > 0.15,
  ).length;
  return {
    waterworks: step(
      site.mainlines.length === 0
        ? "No mainline is drawn yet."
        : about(/^(sources|pocs|mainlines)/) && !/sensor/i.test(about(/^(sources|pocs|mainlines)/) ?? "")
          ? about(/^(sources|pocs|mainlines)/)
          : null,
    ),
    sensors: step(site.pocs.length === 0 ? "No point of connection yet." : sensorIssue),
    stations: step(
      site.stations.length === 0
        ? "No stations yet."
        : bare > 0
          ? `${bare} without any flow figure.`
          : about(/^stations/),
    ),
    programs: step(site.programs.length === 0 ? "No program yet." : about(/^(programs|controllers)/)),
    learn: step(
      site.stations.length === 0 || unlearned > 0 ? `${unlearned} not learned.` : null,
      stale > 0
        ? `${stale} to learn again: what they rest on has changed.`
        : drifted > 0
          ? `${drifted} more than 15 % from design.`
          : null,
    ),
    night: step(
      !summary || summary.finish === null
        ? "Nothing runs on this date."
        : summary.shortfallMin > 0
          ? `${Math.round(summary.shortfallMin)} min left unwatered.`
          : null,
    ),
    limits: step(
      site.stations.length === 0
        ? "No stations yet."
        : site.policy.highResponse === "notify"
          ? "The high limit only notifies."
          : null,
      summary?.watched !== null && summary?.watched !== undefined && summary.watched < 0.7
        ? `Only ${Math.round(summary.watched * 100)} % of run time is watched.`
        : null,
    ),
    bench: step(
      log.benchVersion === null ? "No night has been rehearsed." : null,
      log.benchVersion !== null && log.benchVersion < log.version
        ? `Rehearsed on revision ${log.benchVersion}; this is ${log.version}.`
        : null,
    ),
    log: step(log.openAlarms > 0 ? `${log.openAlarms} open alarm${log.openAlarms > 1 ? "s" : ""}.` : null),
  };
}
