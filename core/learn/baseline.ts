import { nth } from "../checked.ts";
import { judgedSystems } from "../judge/system.ts";
import type { Waterworks } from "../network/waterworks.ts";
import { pocSensing } from "../network/sensing.ts";
import { sensorRange } from "../sensors/sensor-range.ts";

/** What the baseline test of a connected system can see with everything closed. */
export type BaselineSight = {
  pocs: number[];
  /** Σ of its sensors' minima, L/min: less than this hides. */
  limitLpm: number;
  /** Minimum of each POC's own sensors, L/min, as in `pocs`. */
  minimumLpm: number[];
  /** With the pump off nothing stands under pressure: no leak shows. */
  blind: boolean;
};

/** The sight of one system's baseline test. */
export function baselineSight(w: Waterworks, pocs: number[]): BaselineSight {
  const minimumLpm = pocs.map((p) =>
    pocSensing(w, p).sensors.reduce((sum, s) => sum + (sensorRange(s).minLpm ?? 0), 0),
  );
  const blind = pocs.every(
    (p) =>
      w.site.pocs[p]?.devices.some((d) => d.kind === "pump") &&
      !(w.pocSources[p] ?? []).some((s) => w.site.sources[s]?.staticPressureKpa !== undefined),
  );
  return { pocs, limitLpm: minimumLpm.reduce((a, b) => a + b, 0), minimumLpm, blind };
}

/** One for each connected system that has stations. */
export function baselineSights(w: Waterworks): BaselineSight[] {
  const used = new Set(w.site.stations.map((_, i) => w.systemOfMainline[nth(w.stationMainline, i)]));
  return judgedSystems(w)
    .filter((s) => used.has(s.index))
    .map((s) => baselineSight(w, s.pocs));
}
