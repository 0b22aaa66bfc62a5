import type { Fault } from "../bench/faults/resolve.ts";
import { randomFrom } from "../bench/random.ts";
import type { EpochS } from "../dates/wall-time.ts";
import type { SiteFile } from "../site-file/schema.ts";
import { expectedMa } from "../wiring/valve-check.ts";

/**
 * What each station of a controller draws when it is switched on for a moment, mA: its own figure with a few per cent to either side; nothing where its valve does not open for
 * want of current.
 */
export function valveCheck(
  site: SiteFile,
  controllerId: string,
  faults: readonly Fault[],
  now: EpochS,
  seed: number,
): Record<string, number> {
  const random = randomFrom(seed);
  return Object.fromEntries(
    site.stations
      .filter((s) => s.controllerId === controllerId)
      .map((s) => {
        const share = 0.97 + 0.06 * random();
        const open = faults.some(
          (f) => f.kind === "stuckClosed" && f.subjectId === s.id && f.from <= now && f.to > now,
        );
        return [s.id, open ? 0 : Math.round(share * expectedMa(s))];
      }),
  );
}
