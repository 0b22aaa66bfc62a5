import Papa from "papaparse";

/** Trimmed cells of a text with whatever separator, empty lines left out. */
export function csvRows(text: string): string[][] {
  return Papa.parse<string[]>(text.replace(/^\uFEFF/, ""), { skipEmptyLines: "greedy" }).data.map((r) =>
    r.map((c) => c.trim()),
  );
}

/** A figure as people write it, with a decimal comma or with commas between thousands; NaN where it is none. */
export function figureIn(text: string): number {
  const plain = text.replace(/\s/g, "").replace(/^'/, "");
  return plain === ""
    ? Number.NaN
    : Number(/^-?\d+,\d+$/.test(plain) ? plain.replace(",", ".") : plain.replaceAll(",", ""));
}

/** What each heading seems to be, each meaning at most once. */
export function guessColumns<C extends string>(
  headings: readonly string[],
  guesses: readonly (readonly [C, RegExp])[],
): (C | "skip")[] {
  const taken = new Set<C>();
  return headings.map((h) => {
    const guess = guesses.find(([c, test]) => !taken.has(c) && test.test(h))?.[0];
    if (guess === undefined) return "skip";
    taken.add(guess);
    return guess;
  });
}
