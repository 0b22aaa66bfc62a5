import type { EpochS } from "../dates/wall-time.ts";

/** From an instant to another, that one not included. */
export type Span = { from: EpochS; to: EpochS };

/** Of which times something is known. Spans come in the order in which they end. */
export class Known {
  private readonly spans: Span[] = [];

  add({ from, to }: Span): void {
    if (to <= from) return;
    const last = this.spans.at(-1);
    if (last && from <= last.to) last.to = Math.max(last.to, to);
    else this.spans.push({ from, to });
  }

  get seconds(): number {
    return this.spans.reduce((sum, s) => sum + s.to - s.from, 0);
  }

  /** What of a span is not known. */
  without({ from, to }: Span): Span[] {
    const gaps: Span[] = [];
    let at = from;
    for (const s of [...this.spans, { from: to, to }]) {
      if (s.from > at) gaps.push({ from: at, to: Math.min(s.from, to) });
      at = Math.max(at, s.to);
    }
    return gaps.filter((g) => g.to > g.from);
  }
}
