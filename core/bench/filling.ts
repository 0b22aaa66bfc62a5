import type { EpochS } from "../dates/wall-time.ts";
import type { Waterworks } from "../network/waterworks.ts";

/** A main shut for this long has drained a little and fills when opened. */
const DRAINS_AFTER_S = 1800;
const LEAST_FILL_S = 10;
const USUAL_FILL_S = 120;
/** First flow into an empty main as a share of its connection's ceiling, and that ceiling where none is known, L/min. */
const FIRST_SHARE = 0.3;
const CEILING_LPM = 200;

/** What mains that have drained take in when their connection opens, dying away over their filling time. */
export class Filling {
  private readonly w: Waterworks;
  private readonly shutSince: EpochS[];
  private readonly openedAt: (EpochS | null)[];
  private readonly fillS: number[];
  private readonly hasValve: readonly boolean[];

  constructor(w: Waterworks, hasValve: readonly boolean[]) {
    const { site } = w;
    this.w = w;
    this.hasValve = hasValve;
    this.shutSince = site.pocs.map(() => Number.NEGATIVE_INFINITY);
    this.openedAt = site.pocs.map(() => null);
    this.fillS = site.pocs.map((_, p) =>
      Math.max(
        LEAST_FILL_S,
        ...site.mainlines.flatMap((m, i) => ((w.pocsAbove[i] ?? []).includes(p) ? [m.fillS ?? USUAL_FILL_S] : [])),
      ),
    );
  }

  /** Extra flow through a POC in the second from `t`, L/min. */
  lpm(p: number, t: EpochS, live: boolean, valveOpen: boolean): number {
    if (!live || (this.hasValve[p] && !valveOpen)) {
      if (this.openedAt[p] !== null) this.shutSince[p] = t;
      this.openedAt[p] = null;
      return 0;
    }
    const drained = t - (this.shutSince[p] ?? t) >= DRAINS_AFTER_S && this.hasValve[p];
    const openedAt = this.openedAt[p] ?? (drained ? t : Number.NEGATIVE_INFINITY);
    this.openedAt[p] = openedAt;
    const since = t - openedAt;
    const fillS = this.fillS[p] ?? USUAL_FILL_S;
    if (!Number.isFinite(since) || since > 2 * fillS) return 0;
    const ceiling = this.w.pocCeiling[p] ?? Number.POSITIVE_INFINITY;
    const extra = FIRST_SHARE * (Number.isFinite(ceiling) ? ceiling : CEILING_LPM) * Math.exp((-5 * since) / fillS);
    return extra < 0.5 ? 0 : extra;
  }
}
