import { nth } from "../checked.ts";
import { FLOW_TOLERANCE_LPM } from "../ceilings/ceilings.ts";
import type { Waterworks } from "../network/waterworks.ts";
import { pocSensing } from "../network/sensing.ts";
import { sensorRange } from "../sensors/sensor-range.ts";
import { expectedFlow } from "../site-file/expected-flow.ts";
import type { FlowSensor, SiteFile, Station } from "../site-file/schema.ts";
import { type Finding, finding, flowWords } from "./finding.ts";

export function checkSensors(w: Waterworks): Finding[] {
  return w.site.pocs.flatMap((p, i) => {
    const j = p.devices.findIndex((d) => d.kind === "flowSensor");
    const sensor = p.devices[j];
    const mains = w.site.mainlines.flatMap((_, m) => ((w.pocsAbove[m] ?? []).includes(i) ? [m] : []));
    const behind = w.site.stations.filter((_, s) => mains.includes(nth(w.stationMainline, s)));
    if (sensor?.kind !== "flowSensor") return withoutSensor(w, i, behind);
    const path = `pocs[${i}].devices[${j}]`;
    return [
      ...otherFeeds(w, i, sensor, mains, path),
      ...itsRange(w.site, sensor, behind, path),
      ...itsLimits(w, i, sensor),
    ];
  });
}

/** A connection without a sensor of its own: read by its mains' sensors, by some of them, or not at all. */
function withoutSensor(w: Waterworks, poc: number, behind: readonly Station[]): Finding[] {
  const p = w.site.pocs[poc];
  if (!p) return [];
  const path = `pocs[${poc}].devices`;
  const sensing = pocSensing(w, poc);
  if (sensing.by === "part")
    return [
      finding(
        "warning",
        "sensorSeesPart",
        path,
        p.id,
        `${p.name}: ${sensing.sensors.map((x) => x.name ?? x.id).join(", ")} see only part of what passes it; the other mains it feeds have no sensor. Give each main one, or the connection itself.`,
      ),
    ];
  if (sensing.by === "mainlines" || behind.length === 0) return [];
  return [
    finding(
      "warning",
      "noSensor",
      path,
      p.id,
      `${p.name} has no flow sensor: nothing behind it can be learned or watched by flow.`,
    ),
  ];
}

/** Mains behind the sensor that another connection feeds unmeasured. */
function otherFeeds(w: Waterworks, poc: number, sensor: FlowSensor, mains: readonly number[], path: string): Finding[] {
  const { site } = w;
  const blind = mains.flatMap((m) =>
    (w.pocsAbove[m] ?? [])
      .filter((other) => other !== poc && ["none", "part"].includes(pocSensing(w, other).by))
      .map((other) => ({ m, other })),
  )[0];
  if (!blind) return [];
  return [
    finding(
      "warning",
      "sensorSeesPart",
      path,
      sensor.id,
      `${sensor.name ?? sensor.id} does not see the whole flow of ${site.mainlines[blind.m]?.name}: ${site.pocs[blind.other]?.name} feeds it too and has no sensor. Readings are judged only where every feed is measured.`,
    ),
  ];
}

/** What the sensor can read at all, and stations that flow less. */
function itsRange(site: SiteFile, sensor: FlowSensor, behind: readonly Station[], path: string): Finding[] {
  const { minLpm, maxLpm } = sensorRange(sensor);
  const label = sensor.name ?? sensor.id;
  if (minLpm === null && maxLpm === null)
    return [
      finding(
        "warning",
        "sensorRangeUnknown",
        path,
        sensor.id,
        `${label}: enter its inside diameter or its smallest and largest flow, so that Presa can tell what it sees.`,
      ),
    ];
  if (minLpm === null) return [];
  const unseen = behind.filter(
    (s) => s.monitored !== false && (expectedFlow(s)?.lpm ?? Number.POSITIVE_INFINITY) < minLpm - FLOW_TOLERANCE_LPM,
  );
  if (unseen.length === 0) return [];
  return [
    finding(
      "warning",
      "stationUnderSensorMinimum",
      path,
      sensor.id,
      `${label} sees nothing under ${flowWords(site, minLpm)}: it cannot watch ${unseen.map((s) => `${s.number} ${s.name}`).join(", ")}.`,
    ),
  ];
}

/** Limits of a connection that its sensor could not see passed, or that ordinary watering would pass. */
function itsLimits(w: Waterworks, poc: number, sensor: FlowSensor): Finding[] {
  const { site } = w;
  const p = site.pocs[poc];
  if (!p) return [];
  const { minLpm, maxLpm } = sensorRange(sensor);
  const { burstLimitLpm: burst, offScheduleLimitLpm: idle } = p;
  const ceiling = w.pocCeiling[poc] ?? Number.POSITIVE_INFINITY;
  const label = sensor.name ?? sensor.id;
  const found: Finding[] = [];
  const warn = (code: string, field: string, message: string): void => {
    found.push(finding("warning", code, `pocs[${poc}].${field}`, p.id, message));
  };
  if (maxLpm !== null && burst !== undefined && burst > maxLpm)
    warn(
      "burstAboveSensor",
      "burstLimitLpm",
      `${p.name}: the burst limit ${flowWords(site, burst)} is above what ${label} can read, ${flowWords(site, maxLpm)}; it would never trip.`,
    );
  if (minLpm !== null && idle !== undefined && idle < minLpm)
    warn(
      "offScheduleUnderSensor",
      "offScheduleLimitLpm",
      `${p.name}: the off-schedule limit ${flowWords(site, idle)} is under what ${label} can see, ${flowWords(site, minLpm)}.`,
    );
  if (burst !== undefined && burst < ceiling && Number.isFinite(ceiling))
    warn(
      "burstUnderCeiling",
      "burstLimitLpm",
      `${p.name}: the burst limit ${flowWords(site, burst)} is under the ceiling ${flowWords(site, ceiling)}; ordinary watering could trip it.`,
    );
  return found;
}
