import type { Waterworks } from "./waterworks.ts";

/** The connected system that a station, mainline, POC or device belongs to, by id. */
export function systemOf(w: Waterworks, id: string): number | undefined {
  const station = w.stationIndex.get(id);
  const main = station === undefined ? w.mainlineIndex.get(id) : w.stationMainline[station];
  if (main !== undefined) return w.systemOfMainline[main];
  const poc = w.pocIndex.get(id) ?? w.site.pocs.findIndex((p) => p.devices.some((d) => d.id === id));
  if (poc >= 0) return w.systemOfPoc[poc];
  const onMain = w.site.mainlines.findIndex((m) => (m.devices ?? []).some((d) => d.id === id));
  return onMain >= 0 ? w.systemOfMainline[onMain] : undefined;
}
