import type { RefusedMessage } from "./data-in.ts";
import type { DataMessage } from "./messages.ts";

type Numbered = Exclude<DataMessage, { kind: "lost" }> | RefusedMessage;
/** One stream as far as it has come in: what is wanted next, and what came too early. */
export type Sequence = { stream: string; next: number; held: ReadonlyMap<number, Numbered>; repeats: number };
/** What may be taken in now, in order; a hole is numbers that are gone for good. */
export type Ready = { message: Numbered } | { hole: { from: number; to: number } };

/** More than this is not held back for a hole: it is asked for again. */
export const MOST_HELD = 5000;

export function sequenceFrom(stream: string, next: number): Sequence {
  return { stream, next, held: new Map(), repeats: 0 };
}

/**
 * One message more of this stream, in whatever order they come: repeated ones are dropped, late ones put in their place, early ones held.
 *
 * @returns what is ready, in order; empty while something before it is missing
 */
export function arrive(
  sequence: Sequence,
  message: DataMessage | RefusedMessage,
): { sequence: Sequence; ready: Ready[] } {
  if (message.stream !== sequence.stream) return { sequence, ready: [] };
  if (message.kind === "lost") return passHole(sequence, message.from, message.to);
  if (message.seq < sequence.next || sequence.held.has(message.seq))
    return { sequence: { ...sequence, repeats: sequence.repeats + 1 }, ready: [] };
  if (message.seq > sequence.next) {
    if (sequence.held.size >= MOST_HELD) return { sequence, ready: [] };
    // Held in place: a copy a message would cost the square of their number.
    (sequence.held as Map<number, Numbered>).set(message.seq, message);
    return { sequence, ready: [] };
  }
  return release({ ...sequence, next: sequence.next + 1 }, [{ message }]);
}

function passHole(sequence: Sequence, from: number, to: number): { sequence: Sequence; ready: Ready[] } {
  if (from > sequence.next || to < sequence.next) return { sequence, ready: [] };
  const first = [...sequence.held.keys()].reduce((least, n) => Math.min(least, n), Number.POSITIVE_INFINITY);
  const end = Math.min(to, first - 1);
  return release({ ...sequence, next: end + 1 }, [{ hole: { from: sequence.next, to: end } }]);
}

function release(sequence: Sequence, ready: Ready[]): { sequence: Sequence; ready: Ready[] } {
  let { next } = sequence;
  const held = sequence.held as Map<number, Numbered>;
  for (let message = held.get(next); message; message = held.get(next)) {
    held.delete(next);
    ready.push({ message });
    next++;
  }
  return { sequence: { ...sequence, next }, ready };
}

/** The numbers that are missing before the first one held, or up to `last` where the gateway says that it has come so far; null when none is. */
export function missing(sequence: Sequence, last: number): { from: number; to: number } | null {
  const first = [...sequence.held.keys()].reduce((least, n) => Math.min(least, n), Number.POSITIVE_INFINITY);
  const to = Number.isFinite(first) ? first - 1 : last;
  return to >= sequence.next ? { from: sequence.next, to } : null;
}
