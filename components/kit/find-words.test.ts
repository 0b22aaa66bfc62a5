import { describe, expect, it } from "vitest";
import { found, holdsPhrase, holdsWords } from "./find-words";

const LAWNS = ["1 Hall lawn 1", "2 Hall lawn 2", "3 Hall lawn 3", "30 Hall lawn 30", "31 Hall hedge rotor"];
const find = (asked: string): string[] =>
  found(
    LAWNS,
    asked,
    (x) => x,
    (x) => x,
  );

describe("finding by words", () => {
  it("takes a figure as it stands, and a name before loose words", () => {
    expect(find("hall lawn 3")).toEqual(["3 Hall lawn 3"]);
    expect(find("30")).toEqual(["30 Hall lawn 30"]);
    expect(find("3")).toEqual(["3 Hall lawn 3"]);
    expect(find("HALL  lawn")).toHaveLength(4);
    expect(find("rotor hall")).toEqual(["31 Hall hedge rotor"]);
    expect(find("edge")).toEqual(["31 Hall hedge rotor"]);
    expect(find("pond")).toEqual([]);
    expect(find("  ")).toEqual(LAWNS);
  });
  it("of one text: beside each other, or anywhere", () => {
    expect([holdsPhrase("12 North lawn", "north lawn"), holdsPhrase("12 North lawn", "lawn north")]).toEqual([
      true,
      false,
    ]);
    expect([holdsWords("12 North lawn", "lawn 12"), holdsWords("12 North lawn", "lawn 1")]).toEqual([true, false]);
  });
});
