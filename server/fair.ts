import { AppError } from "./app-error.ts";

type Waiting = { enter: () => void };
/** `served`: when it last got a place, by count; 0: never. */
/** `places` for all, `most` of them for one, `waiting` of one before it is refused; `what` is waiting, in words. */
type Rules = { places: number; most: number; waiting: number; what: string };
type Line = { running: number; waiting: Waiting[]; served: number };

/** So many places, and who takes the next: whoever runs fewest, then whoever was served longest ago. No one takes more than `most` at once. */
export class Fair {
  private readonly lines = new Map<string, Line>();
  private running = 0;
  private served = 0;
  private readonly rules: Rules;

  constructor(rules: Rules) {
    this.rules = rules;
  }

  /** Waits for a place; the answer leaves it again. */
  async enter(who: string, signal?: AbortSignal): Promise<() => void> {
    signal?.throwIfAborted();
    const line = this.lines.get(who) ?? { running: 0, waiting: [], served: 0 };
    this.lines.set(who, line);
    if (line.waiting.length >= this.rules.waiting)
      throw new AppError(
        "busy",
        `${this.rules.waiting} ${this.rules.what} of your organisation are waiting already. Try again when they are done.`,
      );
    await new Promise<void>((enter, refuse) => {
      const mine: Waiting = { enter };
      line.waiting.push(mine);
      signal?.addEventListener("abort", () => {
        const at = line.waiting.indexOf(mine);
        if (at < 0) return;
        line.waiting.splice(at, 1);
        refuse(signal.reason);
      });
      this.next();
    });
    let left = false;
    return () => {
      if (left) return;
      left = true;
      this.running--;
      line.running--;
      this.next();
      if (line.running === 0 && line.waiting.length === 0) this.lines.delete(who);
    };
  }

  private next(): void {
    while (this.running < this.rules.places) {
      const ready = [...this.lines.values()].filter((l) => l.waiting.length > 0 && l.running < this.rules.most);
      const [first, ...others] = ready;
      if (!first) return;
      const line = others.reduce(
        (a, b) => (b.running < a.running || (b.running === a.running && b.served < a.served) ? b : a),
        first,
      );
      line.running++;
      this.running++;
      line.served = ++this.served;
      line.waiting.shift()?.enter();
    }
  }
}
