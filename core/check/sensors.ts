import { FLOW_TOLERANCE_LPM } from "../ceilings/ceilings.ts";
import type { Waterworks } from "../network/waterworks.ts";
import { pocSensing } from "../network/sensing.ts";
import { sensorRange } from "../sensors/sensor-range.ts";
import { expectedFlow } from "../site-file/expected-flow.ts";
import { type Finding, finding, flowWords } from "./finding.ts";

export function checkSensors(w: Waterworks): Finding[] {
  const { site } = w;
  const found: Finding[] = [];
  site.pocs.forEach((p, i) => {
    const j = p.devices.findIndex((d) => d.kind === "flowSensor");
    const sensor = p.devices[j];
    const mains = site.mainlines.flatMap((_, m) => ((w.pocsAbove[m] ?? []).includes(i) ? [m] : []));
    const behind = site.stations.filter((_, s) => mains.includes(w.stationMainline[s] as number));
    if (sensor?.kind !== "flowSensor") {
      const sensing = pocSensing(w, i);
      if (sensing.by === "mainlines") return;
      if (sensing.by === "part")
        found.push(
          finding(
            "warning",
            "sensorSeesPart",
            `pocs[${i}].devices`,
            p.id,
            `${p.name}: ${sensing.sensors.map((x) => x.name ?? x.id).join(", ")} see only part of what passes it; the other mains it feeds have no sensor. Give each main one, or the connection itself.`,
          ),
        );
      else if (behind.length > 0)
        found.push(
          finding(
            "warning",
            "noSensor",
            `pocs[${i}].devices`,
            p.id,
            `${p.name} has no flow sensor: nothing behind it can be learned or watched by flow.`,
          ),
        );
      return;
    }
    const path = `pocs[${i}].devices[${j}]`;
    const blind = mains.flatMap((m) =>
      (w.pocsAbove[m] ?? [])
        .filter((other) => other !== i && ["none", "part"].includes(pocSensing(w, other).by))
        .map((other) => ({ m, other })),
    )[0];
    if (blind)
      found.push(
        finding(
          "warning",
          "sensorSeesPart",
          path,
          sensor.id,
          `${sensor.name ?? sensor.id} does not see the whole flow of ${site.mainlines[blind.m]?.name}: ${site.pocs[blind.other]?.name} feeds it too and has no sensor. Readings are judged only where every feed is measured.`,
        ),
      );
    const { minLpm, maxLpm } = sensorRange(sensor);
    const label = sensor.name ?? sensor.id;
    if (minLpm === null && maxLpm === null)
      found.push(
        finding(
          "warning",
          "sensorRangeUnknown",
          path,
          sensor.id,
          `${label}: enter its inside diameter or its smallest and largest flow, so that Presa can tell what it sees.`,
        ),
      );
    const unseen = behind.filter(
      (s) =>
        s.monitored !== false &&
        minLpm !== null &&
        (expectedFlow(s)?.lpm ?? Number.POSITIVE_INFINITY) < minLpm - FLOW_TOLERANCE_LPM,
    );
    if (unseen.length > 0 && minLpm !== null)
      found.push(
        finding(
          "warning",
          "stationUnderSensorMinimum",
          path,
          sensor.id,
          `${label} sees nothing under ${flowWords(site, minLpm)}: it cannot watch ${unseen.map((s) => `${s.number} ${s.name}`).join(", ")}.`,
        ),
      );
    const ceiling = w.pocCeiling[i] as number;
    if (maxLpm !== null && p.burstLimitLpm !== undefined && p.burstLimitLpm > maxLpm)
      found.push(
        finding(
          "warning",
          "burstAboveSensor",
          `pocs[${i}].burstLimitLpm`,
          p.id,
          `${p.name}: the burst limit ${flowWords(site, p.burstLimitLpm)} is above what ${label} can read, ${flowWords(site, maxLpm)}; it would never trip.`,
        ),
      );
    if (minLpm !== null && p.offScheduleLimitLpm !== undefined && p.offScheduleLimitLpm < minLpm)
      found.push(
        finding(
          "warning",
          "offScheduleUnderSensor",
          `pocs[${i}].offScheduleLimitLpm`,
          p.id,
          `${p.name}: the off-schedule limit ${flowWords(site, p.offScheduleLimitLpm)} is under what ${label} can see, ${flowWords(site, minLpm)}.`,
        ),
      );
    if (p.burstLimitLpm !== undefined && p.burstLimitLpm < ceiling && Number.isFinite(ceiling))
      found.push(
        finding(
          "warning",
          "burstUnderCeiling",
          `pocs[${i}].burstLimitLpm`,
          p.id,
          `${p.name}: the burst limit ${flowWords(site, p.burstLimitLpm)} is under the ceiling ${flowWords(site, ceiling)}; ordinary watering could trip it.`,
        ),
      );
  });
  return found;
}
