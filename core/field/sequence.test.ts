import fc from "fast-check";
import { describe, expect, it } from "vitest";
import type { DataMessage } from "./messages.ts";
import { arrive, missing, type Ready, sequenceFrom } from "./sequence.ts";

const message = (seq: number, stream = "a"): DataMessage => ({
  stream,
  seq,
  at: "2026-07-14T00:00:00Z",
  kind: "event",
  type: "open",
  subject: "s1",
  reason: "",
});
const seqOf = (r: Ready): number | string => ("hole" in r ? `${r.hole.from}-${r.hole.to}` : r.message.seq);
const takeAll = (messages: DataMessage[], next = 1) => {
  let sequence = sequenceFrom("a", next);
  const out: (number | string)[] = [];
  for (const m of messages) {
    const step = arrive(sequence, m);
    sequence = step.sequence;
    out.push(...step.ready.map(seqOf));
  }
  return { sequence, out };
};

describe("a numbered stream", () => {
  it("comes out once and in order, however often and in whatever order it comes in", () => {
    fc.assert(
      fc.property(
        fc.array(fc.integer({ min: 1, max: 60 }), { maxLength: 300 }),
        fc.shuffledSubarray(
          Array.from({ length: 60 }, (_, i) => i + 1),
          { minLength: 60 },
        ),
        (some, all) => {
          const { out } = takeAll([...some, ...all].map((n) => message(n)));
          expect(out).toEqual(Array.from({ length: 60 }, (_, i) => i + 1));
        },
      ),
    );
  });
  it("says what is missing: before what was held, else up to what the gateway has", () => {
    const { sequence } = takeAll([message(1), message(5), message(6)]);
    expect(missing(sequence, 9)).toEqual({ from: 2, to: 4 });
    expect(missing(takeAll([message(1)]).sequence, 9)).toEqual({ from: 2, to: 9 });
    expect(missing(takeAll([message(1)]).sequence, 1)).toBeNull();
  });
  it("passes over numbers that are gone for good, but not over those it holds", () => {
    expect(takeAll([message(5), { stream: "a", kind: "lost", from: 1, to: 4 }]).out).toEqual(["1-4", 5]);
    expect(takeAll([message(3), { stream: "a", kind: "lost", from: 1, to: 9 }, message(4)]).out).toEqual(["1-2", 3, 4]);
    expect(takeAll([message(1), { stream: "a", kind: "lost", from: 5, to: 9 }]).out).toEqual([1]);
  });
  it("counts repeats and keeps streams apart", () => {
    const { sequence, out } = takeAll([message(1), message(1), message(2, "b"), message(3), message(3)]);
    expect(out).toEqual([1]);
    expect(sequence.repeats).toBe(2);
  });
});
