import { check } from "../check/check.ts";
import { staleReasons } from "../learn/basis.ts";
import { siteSensors } from "../network/sensing.ts";
import { type Waterworks, waterworks } from "../network/waterworks.ts";
import { sensorProof } from "../sensors/proven.ts";
import { expectedFlow } from "../site-file/expected-flow.ts";
import type { Device, SiteFile } from "../site-file/schema.ts";
import { wireState } from "../wiring/wire-reading.ts";
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

/** Who found it right, when, and how: the evidence that a fitting is sealed with. */
export type Seal = { how: string; at: string; by: string };
/** How much is known of a step: nothing yet; entered, so far; proven, with its seal; proven once, but something it rests on has changed. */
export type Fitting = {
  state: "empty" | "half" | "full" | "cracked";
  /** How far what is needed is there, 0 to 1. */
  fill: number;
  why: string;
  seal: Seal | null;
};

/** A night that was rehearsed on the bench and taken into the log. */
export type Rehearsal = {
  version: number;
  at: string;
  by: string;
  faults: number;
  alarms: number;
  unwateredMin: number;
};
/** What of the site's history the fittings rest on: the newest rehearsal without faults, and the newest with them. */
export type LogState = { openAlarms: number; calm: Rehearsal | null; faulted: Rehearsal | null; version: number };

type Facts = {
  site: SiteFile;
  w: Waterworks;
  summary: NightSummary | null;
  log: LogState;
  now: string;
  /** The first error or warning about a part of the file, in words. */
  wrong: (test: RegExp) => string | null;
};

const empty = (why: string): Fitting => ({ state: "empty", fill: 0, why, seal: null });
const half = (why: string, fill = 0.5): Fitting => ({
  state: "half",
  fill: Math.min(0.9, Math.max(0.15, fill)),
  why,
  seal: null,
});
const full = (seal: Seal): Fitting => ({ state: "full", fill: 1, why: seal.how, seal });
const cracked = (why: string, seal: Seal | null): Fitting => ({ state: "cracked", fill: 1, why, seal });

const newest = <T extends { at: string }>(list: readonly T[]): T | undefined =>
  [...list].sort((a, b) => Date.parse(a.at) - Date.parse(b.at)).at(-1);
const many = (n: number, one: string): string => `${n} ${one}${n === 1 ? "" : "s"}`;

/** Found and checked off, device by device, or read over its wires. */
function waterworksFitting({ site, wrong }: Facts): Fitting {
  if (site.mainlines.length === 0) return empty("No mainline is drawn yet.");
  const devices: Device[] = [
    ...site.pocs.flatMap((p) => p.devices),
    ...site.mainlines.flatMap((m) => m.devices ?? []),
  ].filter((d) => d.kind !== "pipe" && d.kind !== "fixedLoss");
  const marks = devices.map((d) => newest([...(d.checks ?? []), ...readingsOf(site, d.id)]));
  const found = marks.filter((m) => m !== undefined);
  const last = newest(found);
  const issue = wrong(/^(sources|pocs|mainlines)/);
  if (devices.length > 0 && found.length === devices.length && last) {
    const seal = { how: `every device checked off on the spot`, at: last.at, by: last.by };
    return issue ? cracked(issue, seal) : full(seal);
  }
  if (issue) return half(issue);
  return half(
    `Drawn; ${found.length} of ${many(devices.length, "device")} checked off on the spot.`,
    devices.length === 0 ? 0.5 : 0.3 + (0.6 * found.length) / devices.length,
  );
}

const readingsOf = (site: SiteFile, id: string): { at: string; by: string }[] =>
  (site.wireReadings ?? []).filter((r) => r.subjectId === id);

/** A meter test and the wiring checks of every sensor, still speaking for the constant that is set. */
function sensorsFitting({ site, w, now, wrong }: Facts): Fitting {
  const sensors = siteSensors(w);
  if (sensors.length === 0)
    return empty(site.pocs.length === 0 ? "No point of connection yet." : "No flow sensor yet.");
  const proofs = sensors.map(({ sensor }) => ({ sensor, proof: sensorProof(sensor, now) }));
  const proven = proofs.filter((p) => p.proof.state === "proven");
  const stale = proofs.find((p) => p.proof.state === "stale");
  if (stale && stale.proof.state === "stale") {
    const { last, why } = stale.proof;
    const words =
      why === "constant"
        ? `${stale.sensor.name ?? stale.sensor.id}: its constant is not the one that was proved.`
        : `${stale.sensor.name ?? stale.sensor.id} was last proved over a year ago.`;
    return cracked(words, { how: "meter test", at: last.at, by: last.by });
  }
  const issue = wrong(/sensor/i);
  if (proven.length < sensors.length || issue)
    return half(
      issue ?? `${proven.length} of ${many(sensors.length, "sensor")} proved against the meter.`,
      0.3 + (0.6 * proven.length) / sensors.length,
    );
  const last = newest(proven.flatMap((p) => (p.proof.state === "proven" ? [p.proof.last] : [])));
  return last ? full({ how: "meter test", at: last.at, by: last.by }) : half("Entered.");
}

/** Every valve answers over its wires. */
function stationsFitting({ site, wrong }: Facts): Fitting {
  const { stations } = site;
  if (stations.length === 0) return empty("No stations yet.");
  const known = stations.filter((s) => expectedFlow(s)).length;
  const issue = known < stations.length ? `${stations.length - known} without any flow figure.` : wrong(/^stations/);
  const states = stations.map((s) => wireState(site, s.id, s.coil ?? "ac24"));
  const good = states.filter((s) => s?.meaning === "good");
  const last = newest(good.flatMap((s) => (s ? [s] : [])));
  if (good.length === stations.length && last) {
    const seal = { how: "every valve answers over its wires", at: last.at, by: last.by };
    return issue ? cracked(issue, seal) : full(seal);
  }
  return half(
    issue ?? `Listed; ${good.length} of ${stations.length} read over their wires.`,
    (0.7 * known) / stations.length + (0.2 * good.length) / stations.length,
  );
}

/** Sealed by a rehearsal without faults that gave every station its minutes. */
function rehearsed(log: LogState, issue: string | null): Fitting | null {
  const { calm, version } = log;
  if (!calm || calm.unwateredMin > 1) return null;
  const seal = { how: "a rehearsed night watered every station", at: calm.at, by: calm.by };
  if (issue) return cracked(issue, seal);
  return calm.version === version
    ? full(seal)
    : cracked(`Rehearsed on revision ${calm.version}; this is ${version}.`, seal);
}

function programsFitting({ site, log, wrong }: Facts): Fitting {
  const running = site.programs.filter((p) => p.runs.some((r) => r.minutes > 0));
  if (running.length === 0)
    return empty(site.programs.length === 0 ? "No program yet." : "No program waters any station yet.");
  const issue = wrong(/^(programs|controllers)/);
  return (
    rehearsed(log, issue) ??
    half(issue ?? "Entered; rehearse a night without faults on the bench to prove it.", issue ? 0.4 : 0.7)
  );
}

function nightFitting({ summary, log }: Facts): Fitting {
  if (!summary || summary.finish === null) return empty("Nothing runs on this date.");
  const short = summary.shortfallMin > 0 ? `${Math.round(summary.shortfallMin)} min left unwatered.` : null;
  return rehearsed(log, short) ?? half(short ?? "Planned; not rehearsed.", short ? 0.4 : 0.7);
}

/** Accepted figures for every monitored station that rest on what still is. */
function learnFitting({ site, w, now }: Facts): Fitting {
  const watched = site.stations.filter((s) => s.monitored !== false);
  if (watched.length === 0) return empty("No stations yet.");
  const learned = watched.flatMap((s) => (s.learned ? [s.learned] : []));
  if (learned.length === 0) return empty(`${many(watched.length, "station")} to learn.`);
  const first = [...learned].sort((a, b) => Date.parse(a.at) - Date.parse(b.at))[0];
  const seal = { how: `${learned.length} learned, the oldest then`, at: first?.at ?? now, by: "" };
  const stale = watched.filter((s) => s.learned && staleReasons(w, s, now).length > 0).length;
  if (stale > 0) return cracked(`${stale} to learn again: what they rest on has changed.`, seal);
  if (learned.length < watched.length)
    return half(`${watched.length - learned.length} not learned.`, learned.length / watched.length);
  const off = watched.filter(
    (s) => s.learned && s.designFlowLpm && Math.abs(s.learned.meanLpm / s.designFlowLpm - 1) > 0.15,
  ).length;
  return off > 0 ? cracked(`${off} more than 15 % from design.`, seal) : full(seal);
}

/** A rehearsal with faults that raised alarms. */
function limitsFitting({ site, summary, log }: Facts): Fitting {
  if (site.stations.length === 0) return empty("No stations yet.");
  const { faulted, version } = log;
  const unseen =
    summary?.watched !== null && summary?.watched !== undefined && summary.watched < 0.7
      ? `Only ${Math.round(summary.watched * 100)} % of run time is watched.`
      : null;
  if (faulted && faulted.alarms > 0) {
    const seal = {
      how: `a rehearsal with ${many(faulted.faults, "fault")} raised its alarms`,
      at: faulted.at,
      by: faulted.by,
    };
    if (unseen) return cracked(unseen, seal);
    return faulted.version === version
      ? full(seal)
      : cracked(`Rehearsed on revision ${faulted.version}; this is ${version}.`, seal);
  }
  const tells = site.policy.highResponse === "notify" ? "The high limit only notifies." : null;
  return half(tells ?? unseen ?? "Chosen; no rehearsal has shown yet that they see a fault.", tells ? 0.35 : 0.6);
}

function benchFitting({ log }: Facts): Fitting {
  const last = newest([log.calm, log.faulted].flatMap((r) => (r ? [r] : [])));
  if (!last) return empty("No night has been rehearsed.");
  const seal = { how: "a rehearsed night", at: last.at, by: last.by };
  return last.version === log.version
    ? full(seal)
    : cracked(`Rehearsed on revision ${last.version}; this is ${log.version}.`, seal);
}

function logFitting({ log }: Facts): Fitting {
  return log.openAlarms > 0 ? cracked(`${many(log.openAlarms, "open alarm")}.`, null) : half("No open alarm.", 0.5);
}

/**
 * How much is known of every step of the work, always from recorded evidence, never from a form being filled in.
 *
 * @param now ISO instant, for what has aged
 */
export function progress(
  site: SiteFile,
  summary: NightSummary | null,
  log: LogState,
  now: string,
): Record<Screen, Fitting> {
  const findings = check(site).filter((f) => f.severity !== "note");
  const facts: Facts = {
    site,
    w: waterworks(site),
    summary,
    log,
    now,
    wrong: (test) => findings.find((f) => test.test(f.path) || test.test(f.code))?.message ?? null,
  };
  return {
    waterworks: waterworksFitting(facts),
    sensors: sensorsFitting(facts),
    stations: stationsFitting(facts),
    programs: programsFitting(facts),
    learn: learnFitting(facts),
    night: nightFitting(facts),
    limits: limitsFitting(facts),
    bench: benchFitting(facts),
    log: logFitting(facts),
  };
}
