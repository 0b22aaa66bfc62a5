import { got, nth } from "@/core/checked";
import { holdOffS } from "@/core/judge/system";
import { pocSensing } from "@/core/network/sensing";
import type { Waterworks } from "@/core/network/waterworks";
import type { Station } from "@/core/site-file/schema";
import type { Live } from "../../use-live";

/** What a station reads while it alone is open, L/min. @property settled its hold-off is over: what was read before is the filling of its pipes */
export type FlowAlone = { lpm: number; settled: boolean };

/** The sum over the sensors of the station's system; null where others are open too, or one of them reads nothing. */
export function flowOfAlone(
  w: Waterworks,
  station: Station,
  { open, flow, since }: Pick<Live, "open" | "flow" | "since">,
): FlowAlone | null {
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
  if (read.length === 0 || read.includes(null)) return null;
  const mainlines = w.site.mainlines.flatMap((_, m) => (w.systemOfMainline[m] === system ? [m] : []));
  return {
    lpm: read.reduce<number>((sum, v) => sum + (v ?? 0), 0),
    settled: since / 1000 >= holdOffS(w, { mainlines }, [at]),
  };
}
