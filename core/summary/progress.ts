import { check } from "../check/check.ts";
import { staleReasons } from "../learn/basis.ts";
import { siteSensors } from "../network/sensing.ts";
import { type Waterworks, waterworks } from "../network/waterworks.ts";
import { sensorProof } from "../sensors/proven.ts";
import { standsOnTheSpot } from "../site-file/device-checks.ts";
import { expectedFlow } from "../site-file/expected-flow.ts";
import type { Device, SiteFile } from "../site-file/schema.ts";
import { wireState } from "../wiring/wire-reading.ts";
import { cracked, empty, type Fitting, full, half, type Next, to } from "./fitting.ts";
import type { LogState } from "./log-state.ts";
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
  "controllers",
  "log",
] as const;
export type Screen = (typeof SCREENS)[number];

type Facts = {
  site: SiteFile;
  w: Waterworks;
  summary: NightSummary | null;
  log: LogState;
  now: string;
  /** The first error or warning about a part of the file, in words. */
  wrong: (test: RegExp) => string | null;
};

const toPart = (screen: string, id: string, words: string): Next => to(`${screen}?at=${encodeURIComponent(id)}`, words);
const mend = (issue: string): Next => to("findings", `mend what was found: ${issue}`);

const newest = <T extends { at: string }>(list: readonly T[]): T | undefined =>
  [...list].sort((a, b) => Date.parse(a.at) - Date.parse(b.at)).at(-1);
const many = (n: number, one: string): string => `${n} ${one}${n === 1 ? "" : "s"}`;

/** Found as drawn, device by device, or read over its wires. */
function waterworksFitting({ site, wrong }: Facts): Fitting {
  if (site.mainlines.length === 0)
    return empty(
      "No mainline is drawn yet.",
      to(
        "waterworks",
        "draw a source, a point of connection and a mainline; a standard connection lays its pieces in one press",
      ),
    );
  const devices: Device[] = [
    ...site.pocs.flatMap((p) => p.devices),
    ...site.mainlines.flatMap((m) => m.devices ?? []),
  ].filter(standsOnTheSpot);
  const found = devices.flatMap((d) => foundOnTheSpot(site, d) ?? []);
  const left = devices.find((d) => !foundOnTheSpot(site, d));
  const last = newest(found);
  const issue = wrong(/^(sources|pocs|mainlines)/);
  if (!left && last) {
    const seal = { how: `every device checked off on the spot`, at: last.at, by: last.by };
    return issue ? cracked(issue, seal, mend(issue)) : full(seal);
  }
  if (issue) return half(issue, 0.5, mend(issue));
  return half(
    `Drawn; ${found.length} of ${many(devices.length, "device")} checked off on the spot.`,
    devices.length === 0 ? 0.5 : 0.3 + (0.6 * found.length) / devices.length,
    left
      ? toPart(
          "waterworks",
          left.id,
          `find ${many(devices.length - found.length, "device")} on the spot and check ${devices.length - found.length === 1 ? "it" : "them"} off`,
        )
      : to("waterworks", "add the pieces of each point of connection"),
  );
}

/** When someone last found a device in order there; null when nobody did, or one of its checks was last found not to be. */
function foundOnTheSpot(site: SiteFile, device: Device): { at: string; by: string } | null {
  const latest = [...new Map((device.checks ?? []).map((c) => [c.check, c])).values()];
  if (latest.some((c) => !c.ok)) return null;
  const readings = (site.wireReadings ?? []).filter((r) => r.subjectId === device.id);
  return newest<{ at: string; by: string }>([...latest, ...readings]) ?? null;
}

/** A meter test and the wiring checks of every sensor, still speaking for the constant that is set. */
function sensorsFitting({ site, w, now, wrong }: Facts): Fitting {
  const sensors = siteSensors(w);
  if (sensors.length === 0)
    return site.pocs.length === 0
      ? empty("No point of connection yet.", to("waterworks", "add a point of connection on Waterworks"))
      : empty("No flow sensor yet.", to("waterworks", "add a flow sensor to a point of connection on Waterworks"));
  const proofs = sensors.map(({ sensor, ownerName }) => ({ sensor, ownerName, proof: sensorProof(sensor, now) }));
  const proven = proofs.filter((p) => p.proof.state === "proven");
  const stale = proofs.find((p) => p.proof.state === "stale");
  if (stale && stale.proof.state === "stale") {
    const { last, why } = stale.proof;
    const words =
      why === "constant"
        ? `${stale.sensor.name ?? stale.sensor.id}: its constant is not the one that was proved.`
        : `${stale.sensor.name ?? stale.sensor.id} was last proved over a year ago.`;
    return cracked(
      words,
      { how: "meter test", at: last.at, by: last.by },
      toPart("sensors", stale.sensor.id, `prove the sensor at ${stale.ownerName} again against the meter`),
    );
  }
  const issue = wrong(/sensor/i);
  const unproven = proofs.find((p) => p.proof.state !== "proven");
  const last = newest(proven.flatMap((p) => (p.proof.state === "proven" ? [p.proof.last] : [])));
  const fill = 0.3 + (0.6 * proven.length) / sensors.length;
  if (issue) return half(issue, fill, mend(issue));
  if (unproven || !last)
    return half(
      `${proven.length} of ${many(sensors.length, "sensor")} proved against the meter.`,
      fill,
      unproven
        ? toPart("sensors", unproven.sensor.id, `prove the sensor at ${unproven.ownerName} against the meter`)
        : null,
    );
  return full({ how: "meter test", at: last.at, by: last.by });
}

/** Every valve answers over its wires. */
function stationsFitting({ site, wrong }: Facts): Fitting {
  const { stations } = site;
  if (stations.length === 0)
    return empty(
      "No stations yet.",
      site.mainlines.length === 0 || site.controllers.length === 0
        ? to("waterworks", "draw a mainline and a controller on Waterworks, which the stations hang on")
        : to("stations", "paste the stations from a spreadsheet, or add them one by one"),
    );
  const unknown = stations.filter((s) => !expectedFlow(s));
  const [first] = unknown;
  const known = stations.length - unknown.length;
  const issue = first ? `${unknown.length} without any flow figure.` : wrong(/^stations/);
  const states = stations.map((s) => wireState(site, s.id, s.coil ?? "ac24"));
  const good = states.filter((s) => s?.meaning === "good");
  const last = newest(good.flatMap((s) => (s ? [s] : [])));
  const mending = first
    ? toPart("stations", first.id, `give ${many(unknown.length, "station")} a flow: from design, by hand or learned`)
    : issue && mend(issue);
  if (good.length === stations.length && last) {
    const seal = { how: "every valve answers over its wires", at: last.at, by: last.by };
    return issue && mending ? cracked(issue, seal, mending) : full(seal);
  }
  return half(
    issue ?? `Listed; ${good.length} of ${stations.length} read over their wires.`,
    (0.7 * known) / stations.length + (0.2 * good.length) / stations.length,
    mending ||
      to(
        "waterworks?view=devices",
        `read ${many(stations.length - good.length, "valve")} over their wires, so that they are known to answer`,
      ),
  );
}

/** Sealed by a rehearsal without faults that gave every station its minutes. */
function rehearsed(log: LogState, issue: string | null, mending: Next | null): Fitting | null {
  const { calm, version } = log;
  if (!calm || calm.unwateredMin > 1) return null;
  const seal = { how: "a rehearsed night watered every station", at: calm.at, by: calm.by };
  if (issue && mending) return cracked(issue, seal, mending);
  return calm.version === version
    ? full(seal)
    : cracked(`Rehearsed on revision ${calm.version}; this is ${version}.`, seal, CALM_AGAIN);
}

const CALM = to("bench", "rehearse a night without faults on the Bench and take it into the log");
const CALM_AGAIN = to("bench", "rehearse a night without faults again, on the site as it is now");

function programsFitting({ site, log, wrong }: Facts): Fitting {
  const running = site.programs.filter((p) => p.runs.some((r) => r.minutes > 0));
  if (running.length === 0)
    return site.programs.length === 0
      ? empty("No program yet.", to("programs", "add a program"))
      : empty("No program waters any station yet.", to("programs", "put stations with their minutes into a program"));
  const issue = wrong(/^(programs|controllers)/);
  return (
    rehearsed(log, issue, issue === null ? null : mend(issue)) ??
    half(
      issue ?? "Entered; rehearse a night without faults on the bench to prove it.",
      issue ? 0.4 : 0.7,
      issue ? mend(issue) : CALM,
    )
  );
}

function nightFitting({ summary, log }: Facts): Fitting {
  if (!summary || summary.finish === null)
    return empty("Nothing runs on this date.", to("night?view=weeks", "choose a night on which something runs"));
  const short = summary.shortfallMin > 0 ? `${Math.round(summary.shortfallMin)} min left unwatered.` : null;
  const longer = to("night?view=better", "search a better night, or give the programs more time");
  return (
    rehearsed(log, short, longer) ?? half(short ?? "Planned; not rehearsed.", short ? 0.4 : 0.7, short ? longer : CALM)
  );
}

/** Accepted figures for every monitored station that rest on what still is. */
function learnFitting({ site, w, now, log }: Facts): Fitting {
  const watched = site.stations.filter((s) => s.monitored !== false);
  if (watched.length === 0) return empty("No stations yet.", to("stations", "list the stations first"));
  const learned = watched.flatMap((s) => (s.learned ? [s.learned] : []));
  if (learned.length === 0)
    return empty(
      `${many(watched.length, "station")} to learn.`,
      to("learn", `learn ${many(watched.length, "station")}`),
    );
  const first = [...learned].sort((a, b) => Date.parse(a.at) - Date.parse(b.at))[0];
  const seal = { how: `${learned.length} learned, the oldest then`, at: first?.at ?? now, by: "" };
  const stale = watched.filter((s) => s.learned && staleReasons(w, s, now, log.nights).length > 0).length;
  if (stale > 0)
    return cracked(
      `${stale} to learn again: what they rest on has changed, or their nights contradict them.`,
      seal,
      to("learn", `learn ${many(stale, "station")} again`),
    );
  const rehearsed = learned.filter((l) => l.how === "bench").length;
  if (rehearsed > 0)
    return half(
      `${rehearsed} only rehearsed on the bench.`,
      0.8,
      to("learn", `learn ${many(rehearsed, "station")} at the site: the bench is a rehearsal`),
    );
  const left = watched.length - learned.length;
  if (left > 0)
    return half(
      `${left} not learned.`,
      learned.length / watched.length,
      to("learn", `learn the other ${many(left, "station")}`),
    );
  const off = watched.filter(
    (s) => s.learned && s.designFlowLpm && Math.abs(s.learned.meanLpm / s.designFlowLpm - 1) > 0.15,
  ).length;
  return off > 0
    ? cracked(
        `${off} more than 15 % from design.`,
        seal,
        to(
          "learn?view=ledger",
          `look at ${many(off, "station")} more than 15 % from design: nozzles, a leak, or the design itself`,
        ),
      )
    : full(seal);
}

/** A rehearsal with faults that raised alarms. */
function limitsFitting({ site, summary, log }: Facts): Fitting {
  if (site.stations.length === 0) return empty("No stations yet.", to("stations", "list the stations first"));
  const { faulted, version } = log;
  const unseen =
    summary?.watched !== null && summary?.watched !== undefined && summary.watched < 0.7
      ? `Only ${Math.round(summary.watched * 100)} % of run time is watched.`
      : null;
  const more = to("limits", "see why more is not watched: short cycles, long hold-off, no figure");
  if (faulted && faulted.alarms > 0) {
    const seal = {
      how: `a rehearsal with ${many(faulted.faults, "fault")} raised its alarms`,
      at: faulted.at,
      by: faulted.by,
    };
    if (unseen) return cracked(unseen, seal, more);
    return faulted.version === version
      ? full(seal)
      : cracked(
          `Rehearsed on revision ${faulted.version}; this is ${version}.`,
          seal,
          to("bench", "rehearse a night with a fault again, on the site as it is now"),
        );
  }
  if (site.policy.highResponse === "notify")
    return half(
      "The high limit only notifies.",
      0.35,
      to("limits", "choose what a high flow is to do besides telling"),
    );
  return half(
    unseen ?? "Chosen; no rehearsal has shown yet that they see a fault.",
    0.6,
    unseen ? more : to("bench", "rehearse a night with a fault on the Bench, to see that the limits trip"),
  );
}

function benchFitting({ log }: Facts): Fitting {
  const last = newest([log.calm, log.faulted].flatMap((r) => (r ? [r] : [])));
  if (!last) return empty("No night has been rehearsed.", to("bench", "run a night, then take it into the log"));
  const seal = { how: "a rehearsed night", at: last.at, by: last.by };
  return last.version === log.version
    ? full(seal)
    : cracked(
        `Rehearsed on revision ${last.version}; this is ${log.version}.`,
        seal,
        to("bench", "run a night again: the site has changed since the last"),
      );
}

/** That controllers hold what Presa holds is proven by reading them back; what differs since cracks it. */
function controllersFitting({ site, log }: Facts): Fitting {
  const { there } = log;
  const all = site.controllers.length;
  if (all === 0) return empty("No controller yet.", to("waterworks", "add the site's controllers"));
  if (!there)
    return empty(
      "No gateway takes settings: they are carried there on paper.",
      to("controllers?view=live", "set up the site's gateway, or print the sheet from Log"),
    );
  const at = there.oldestReadAt;
  if (there.read < all || at === null)
    return half(
      `${there.read} of ${many(all, "controller")} read back.`,
      (0.8 * there.read) / all,
      to("controllers", "read back what the controllers hold"),
    );
  const seal = { how: `${many(all, "controller")} held what Presa holds, read back then`, at, by: "" };
  if (there.sending)
    return half("Settings are on their way.", 0.85, to("controllers?view=history", "see what became of the last send"));
  return there.differs > 0
    ? cracked(
        `${many(there.differs, "setting")} not as in Presa.`,
        null,
        to(
          "controllers",
          `look at ${many(there.differs, "setting")} that ${there.differs === 1 ? "differs" : "differ"} and send, take or leave`,
        ),
      )
    : full(seal);
}

function logFitting({ log }: Facts): Fitting {
  return log.openAlarms > 0
    ? cracked(
        `${many(log.openAlarms, "open alarm")}.`,
        null,
        to(
          "log?view=alarms",
          `find the cause of ${many(log.openAlarms, "open alarm")} and clear ${log.openAlarms === 1 ? "it" : "them"}`,
        ),
      )
    : half("No open alarm.", 0.5, null);
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
    controllers: controllersFitting(facts),
    log: logFitting(facts),
  };
}
