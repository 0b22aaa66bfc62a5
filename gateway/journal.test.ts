import { appendFileSync, mkdtempSync, readdirSync, readFileSync, rmSync, writeFileSync } from "node:fs";
import { tmpdir } from "node:os";
import { join } from "node:path";
import fc from "fast-check";
import { afterEach, describe, expect, it } from "vitest";
import { Journal, readNote, writeNote } from "./journal.ts";

const folders: string[] = [];
const folder = (): string => {
  const made = mkdtempSync(join(tmpdir(), "presa-journal-"));
  folders.push(made);
  return made;
};
afterEach(() => {
  for (const f of folders.splice(0)) rmSync(f, { recursive: true, force: true });
});
const numbered = (from: number, count: number): string[] =>
  Array.from({ length: count }, (_, i) => `{"seq":${from + i}}`);

describe("the journal of what was said", () => {
  it("begins with number 1 and gives back any stretch, as far as it is kept", () => {
    const journal = new Journal(folder());
    expect([journal.first, journal.lastSeq, journal.lastLine]).toEqual([1, 0, null]);
    expect(journal.lines(1, 10)).toEqual([]);
    journal.append(numbered(1, 5));
    journal.append(numbered(6, 2));
    expect([journal.first, journal.lastSeq, journal.lastLine]).toEqual([1, 7, '{"seq":7}']);
    expect(journal.lines(3, 6)).toEqual(numbered(3, 4));
    expect(journal.lines(6, 90)).toEqual(numbered(6, 2));
    expect(journal.lines(-4, 2)).toEqual(numbered(1, 2));
    expect(journal.lines(8, 9)).toEqual([]);
  });
  it("is the same after a restart, and goes on where it stood", () => {
    const at = folder();
    new Journal(at).append(numbered(1, 12));
    const again = new Journal(at);
    expect([again.first, again.lastSeq]).toEqual([1, 12]);
    again.append(numbered(13, 1));
    expect(new Journal(at).lines(11, 13)).toEqual(numbered(11, 3));
  });
  it("turns to a new file in time and gives stretches over both", () => {
    const at = folder();
    const journal = new Journal(at);
    journal.append(numbered(1, 9_998));
    journal.append(numbered(9_999, 5));
    expect(readdirSync(at).sort()).toEqual(["000000000001.jsonl", "000000010001.jsonl"]);
    expect(journal.lines(9_997, 10_003)).toEqual(numbered(9_997, 7));
    expect(new Journal(at).lines(9_999, 10_002)).toEqual(numbered(9_999, 4));
  });
  it("throws the oldest away, and says from where it still has everything", () => {
    const at = folder();
    const journal = new Journal(at);
    journal.append(numbered(1, 410_001));
    expect(readdirSync(at)).toHaveLength(40);
    expect(journal.first).toBe(20_001);
    expect(journal.lines(19_990, 20_002)).toEqual(numbered(20_001, 2));
    expect(journal.lastSeq).toBe(410_001);
  });
  it("cuts off a line that was half written when the power went, and gives its number to the next", () => {
    const at = folder();
    new Journal(at).append(numbered(1, 3));
    appendFileSync(join(at, "000000000001.jsonl"), '{"seq":4,"flow":1');
    const again = new Journal(at);
    expect(again.lastSeq).toBe(3);
    again.append(numbered(4, 1));
    expect(readFileSync(join(at, "000000000001.jsonl"), "utf8")).toBe(`${numbered(1, 4).join("\n")}\n`);
  });
  it("passes over files that are not its own", () => {
    const at = folder();
    writeFileSync(join(at, "notes.txt"), "not a journal");
    const journal = new Journal(at);
    journal.append(numbered(1, 1));
    expect(new Journal(at).lines(1, 1)).toEqual(numbered(1, 1));
  });
  it("however it is written and restarted, every number is there once, in order", () => {
    fc.assert(
      fc.property(fc.array(fc.tuple(fc.integer({ min: 0, max: 40 }), fc.boolean()), { maxLength: 12 }), (steps) => {
        const at = folder();
        let journal = new Journal(at);
        let said = 0;
        for (const [count, restart] of steps) {
          if (restart) journal = new Journal(at);
          journal.append(numbered(said + 1, count));
          said += count;
        }
        expect(journal.lastSeq).toBe(said);
        expect(journal.lines(1, said)).toEqual(numbered(1, said));
      }),
      { numRuns: 40 },
    );
  });
});

describe("notes beside it", () => {
  it("are read as they were written; one that was never written is nothing", () => {
    const at = join(folder(), "not yet there");
    expect(readNote(at, "state.json")).toBeNull();
    writeNote(at, "state.json", { at: 12, open: ["s1"] });
    expect(readNote(at, "state.json")).toEqual({ at: 12, open: ["s1"] });
    expect(readdirSync(at)).toEqual(["state.json"]);
  });
  it("cut short when the power went are as if never written; one half written leaves the old one standing", () => {
    const at = folder();
    writeFileSync(join(at, "state.json"), '{"at":12,"op');
    expect(readNote(at, "state.json")).toBeNull();
    writeNote(at, "state.json", { at: 13 });
    writeFileSync(join(at, "state.json.new"), '{"at":1');
    expect(readNote(at, "state.json")).toEqual({ at: 13 });
  });
});
