import { got, nth } from "@/core/checked";
import { pocSensing } from "@/core/network/sensing";
import type { Waterworks } from "@/core/network/waterworks";
import type { Station } from "@/core/site-file/schema";

/** What a station reads while it alone is open, L/min: the sum over the sensors of its system; null where others are open too, or one of them reads nothing. */
export function flowOfAlone(
  w: Waterworks,
  station: Station,
  { open, flow }: { open: readonly string[]; flow: Record<string, number | null> },
): number | null {
  if (open.length !== 1 || open[0] !== station.id) return null;
  const at = w.site.stations.findIndex((s) => s.id === station.id);
  if (at < 0) return null;
  const system = nth(w.systemOfMainline, nth(w.stationMainline, at));
  const sensors = new Set(
    w.site.pocs
      .filter((_, p) => w.systemOfPoc[p] === system)
      .flatMap((p) => pocSensing(w, got(w.pocIndex, p.id)).sensors.map((s) => s.id)),
  );
  const read = [...sensors].map((id) => flow[id] ?? null);
  return read.length === 0 || read.includes(null) ? null : read.reduce<number>((sum, v) => sum + (v ?? 0), 0);
}
