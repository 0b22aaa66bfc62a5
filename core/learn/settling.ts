import { nth } from "../checked.ts";

/** Time constants that a settling flow is fitted with, s. */
const CONSTANTS_S = Array.from({ length: 24 }, (_, i) => 8 * 1.2 ** i);
/** How much better the fit must be than a constant flow before it counts, as F of one more parameter: in the first minute less, since a slow end shows little yet. */
const LEAST_F = { atFirst: 4, later: 12 } as const;
const AT_FIRST_S = 60;
/** A τ is not excluded while its squares exceed the least by no more than so many times the noise. */
const PLAUSIBLE = 6;
/** No reading is finer than this share of the flow. */
const FINEST_SHARE = 0.0005;
const LEAST_READINGS = 5;

/**
 * A flow that dies away, or builds up, to what it will be: `a + b·e^(−t/τ)`, fitted to all readings of a run by least squares over a range of τ (handbook#7-learning). A window of
 * 30 s may look level while the flow is still far from its end: this tells how far.
 */
export class Settling {
  private n = 0;
  private first = 0;
  private begin = 0;
  private sumY = 0;
  private sumYY = 0;
  private readonly sums = CONSTANTS_S.map(() => ({ e: 0, ee: 0, ey: 0 }));

  /** @param t s, ascending @param lpm what was read, L/min */
  add(t: number, lpm: number): void {
    if (this.n === 0) {
      this.first = lpm;
      this.begin = t;
    }
    const y = lpm - this.first;
    this.n++;
    this.sumY += y;
    this.sumYY += y * y;
    for (const [i, tau] of CONSTANTS_S.entries()) {
      const e = Math.exp(-(t - this.begin) / tau);
      const s = nth(this.sums, i);
      s.e += e;
      s.ee += e * e;
      s.ey += e * y;
    }
  }

  /**
   * By how much the mean between two instants lies off where the flow will end, as a share of that; 0 where nothing says that it is settling, Infinity where it ends at nothing.
   */
  excess(from: number, to: number): number {
    const { n } = this;
    if (n < LEAST_READINGS) return 0;
    const constant = Math.max(0, this.sumYY - this.sumY ** 2 / n);
    const fits = CONSTANTS_S.flatMap((tau, i) => this.fit(tau, nth(this.sums, i), constant));
    const least = Math.min(...fits.map((f) => f.rest));
    const noise = Math.max(least / Math.max(1, n - 3), (FINEST_SHARE * (this.first + this.sumY / n)) ** 2, 1e-12);
    if (
      fits.length === 0 ||
      (constant - least) / noise < (to - this.begin < AT_FIRST_S ? LEAST_F.atFirst : LEAST_F.later)
    )
      return 0;
    // Short of its end a flow fits many a τ; the one that leaves most to go is reckoned with.
    let most = 0;
    for (const { tau, a, b, rest } of fits) {
      if (rest > least + PLAUSIBLE * noise) continue;
      if (a <= 0) return Number.POSITIVE_INFINITY;
      const [t0, t1] = [from - this.begin, Math.max(to - this.begin, from - this.begin + 1e-9)];
      const share = (b * tau * (Math.exp(-t0 / tau) - Math.exp(-t1 / tau))) / (t1 - t0) / a;
      if (Math.abs(share) > Math.abs(most)) most = share;
    }
    return most;
  }

  private fit(
    tau: number,
    s: { e: number; ee: number; ey: number },
    constant: number,
  ): { tau: number; a: number; b: number; rest: number }[] {
    const spread = s.ee - s.e ** 2 / this.n;
    if (spread < 1e-9) return [];
    const shared = s.ey - (s.e * this.sumY) / this.n;
    const b = shared / spread;
    return [{ tau, a: this.first + (this.sumY - b * s.e) / this.n, b, rest: Math.max(0, constant - b * shared) }];
  }
}
