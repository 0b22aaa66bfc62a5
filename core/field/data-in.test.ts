import { describe, expect, it } from "vitest";
import { readData } from "./data-in.ts";
import { arrive, sequenceFrom } from "./sequence.ts";

const AT = Date.parse("2026-07-14T22:00:00Z") / 1000;
const said = (more: object): string =>
  JSON.stringify({ stream: "a", seq: 7, at: "2026-07-14T22:00:00Z", kind: "reading", flow: { fs: 120 }, ...more });
const refused = (text: string) => {
  const message = readData(text, AT);
  return message?.kind === "refused" ? [message.seq, message.why] : (message?.kind ?? null);
};

describe("what a gateway says", () => {
  it("is taken as it is where it can be read and its clock is about right", () => {
    expect(refused(said({}))).toBe("reading");
    expect(refused(said({ at: "2025-07-14T22:00:00Z" }))).toBe("reading");
    expect(refused(said({ at: "2026-07-15T00:09:00+02:00" }))).toBe("reading");
    expect(refused(said({ kind: "event", type: "open", subject: "" }))).toBe("event");
    expect(refused(JSON.stringify({ stream: "a", kind: "lost", from: 3, to: 9 }))).toBe("lost");
  });
  it("is refused under its number where its clock is wrong", () => {
    for (const at of ["0000-01-01T00:00:00Z", "1970-01-01T00:00:00Z", "2026-07-14T22:11:00Z", "9999-12-31T23:59:59Z"])
      expect(refused(said({ at })), at).toEqual([7, "clock"]);
    expect(readData(said({ at: "2020-01-01T00:00:00Z" }), AT, { backS: 1e9, aheadS: 0 })?.kind).toBe("reading");
  });
  it("is refused under its number where it cannot be read", () => {
    const many = Object.fromEntries(Array.from({ length: 201 }, (_, i) => [`s${i}`, 1]));
    const unreadable = [
      { at: "yesterday" },
      { flow: many },
      { flow: { ["x".repeat(81)]: 1 } },
      { flow: { fs: -1 } },
      { open: ["a\u0000b"] },
      { kind: "event", type: "open", subject: "s1", reason: "NUL \u0000" },
      { kind: "nonsense" },
    ];
    for (const more of unreadable)
      expect(refused(said(more)), JSON.stringify(more).slice(0, 60)).toEqual([7, "unreadable"]);
  });
  it("says nothing where it bears no number", () => {
    for (const text of ["", "{", "7", "null", "[]", said({ seq: 0 }), said({ seq: 2 ** 53 }), said({ stream: "" })])
      expect(readData(text, AT), text).toBeNull();
  });
  it("that was refused counts as come: what follows goes on", () => {
    const poison = readData(said({ seq: 1, at: "1970-01-01T00:00:00Z" }), AT);
    const first = arrive(sequenceFrom("a", 1), poison as NonNullable<typeof poison>);
    const next = readData(said({ seq: 2 }), AT);
    const then = arrive(first.sequence, next as NonNullable<typeof next>);
    expect(first.ready).toMatchObject([{ message: { kind: "refused", seq: 1 } }]);
    expect(then.ready).toMatchObject([{ message: { kind: "reading", seq: 2 } }]);
    expect(then.sequence.next).toBe(3);
  });
});
