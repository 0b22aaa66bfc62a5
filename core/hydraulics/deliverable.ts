import { staticPressureKpa } from "../ceilings/ceilings.ts";
import type { Poc, SiteFile } from "../site-file/schema.ts";
import { KPA_PER_METRE_OF_WATER } from "../units/units.ts";
import { afterDevice, pumpHeadM } from "./device-loss.ts";

/** Above this a supply counts as without end, L/min. */
const ENDLESS_LPM = 100_000;

/** And is found to so much, L/min. */
const SURE_LPM = 1e-6;

/** Pressure behind a POC's last device at a flow, kPa, with every pump running; null where no source states a pressure and no pump makes one. */
export function pocOutletKpa(site: SiteFile, poc: Poc, flowLpm: number): number | null {
  const pumped = poc.devices.some((d) => d.kind === "pump");
  const stated = staticPressureKpa(site, poc);
  if (stated === null && !pumped) return null;
  const drops = site.sources
    .filter((s) => poc.sourceIds.includes(s.id) && s.enabled !== false)
    .map((s) =>
      s.pressureDropKpaAt ? s.pressureDropKpaAt.dropKpa * (flowLpm / s.pressureDropKpaAt.flowLpm) ** 1.852 : 0,
    );
  let kPa = (stated ?? 0) - (drops.length > 0 ? Math.max(...drops) : 0);
  for (const d of poc.devices)
    kPa = d.kind === "pump" ? kPa + pumpHeadM(d, flowLpm) * KPA_PER_METRE_OF_WATER : afterDevice(d, kPa, flowLpm);
  return kPa;
}

/**
 * The most a POC can deliver, L/min: the flow at which nothing is left of the pressure behind it (a broken main beside it). A limit
 * above 90 % of this never trips (handbook#8-limits). Null when pressures are not known well enough to say.
 */
export function deliverableLpm(site: SiteFile, poc: Poc): number | null {
  const left = (q: number): number | null => pocOutletKpa(site, poc, q);
  if (left(0) === null || (left(ENDLESS_LPM) ?? 0) > 0) return null;
  let [lo, hi] = [0, ENDLESS_LPM];
  while (hi - lo > SURE_LPM) {
    const mid = (lo + hi) / 2;
    if ((left(mid) as number) > 0) lo = mid;
    else hi = mid;
  }
  return lo;
}
