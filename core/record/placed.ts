import type { SiteFile } from "../site-file/schema.ts";
import { firstSource, firstSourceOf, pocsAbove } from "../season/water-cost.ts";
import type { WaterRow } from "./water-day.ts";

/** Where water went through: the source, point of connection and mainline. */
export type Places = { sourceId: string | null; pocId: string | null; mainlineId: string | null };

/** Rows with where their water came from and went: by the sensor that counted it, and the station that took it. */
export function placed(site: SiteFile, rows: readonly WaterRow[]): (WaterRow & Places)[] {
  const mains = new Map(site.stations.map((s) => [s.id, s.mainlineId]));
  const carriers = new Map<string, { poc: SiteFile["pocs"][number] | null; mainlineId: string | null }>();
  for (const poc of site.pocs) for (const d of poc.devices) carriers.set(d.id, { poc, mainlineId: null });
  for (const m of site.mainlines)
    for (const d of m.devices ?? []) carriers.set(d.id, { poc: pocAbove(site, m.id), mainlineId: m.id });
  return rows.map((row) => {
    const carrier = carriers.get(row.sensorId);
    const mainlineId = (row.stationId === null ? null : mains.get(row.stationId)) ?? carrier?.mainlineId ?? null;
    const poc = carrier?.poc ?? null;
    return { ...row, pocId: poc?.id ?? null, sourceId: sourceOf(site, poc, mainlineId), mainlineId };
  });
}

/** The only point of connection above a mainline; null where there are several. */
function pocAbove(site: SiteFile, mainlineId: string): SiteFile["pocs"][number] | null {
  const [poc, ...others] = pocsAbove(site, mainlineId);
  return poc && others.length === 0 ? poc : null;
}

/** Which of several sources it came from nobody measures: it is taken for that which is drawn on first. */
function sourceOf(site: SiteFile, poc: SiteFile["pocs"][number] | null, mainlineId: string | null): string | null {
  if (poc) return firstSourceOf(site, [poc]);
  return mainlineId === null ? null : firstSource(site, mainlineId);
}
