import { createTranslator } from "use-intl/core";
import { describe, expect, it } from "vitest";
import { language } from "../contracts/people.ts";
import { MESSAGES } from "./messages.ts";

type Tree = { [key: string]: string | Tree };
const flat = (tree: Tree, at = ""): [string, string][] =>
  Object.entries(tree).flatMap(([key, value]): [string, string][] =>
    typeof value === "string" ? [[at + key, value]] : flat(value, `${at}${key}.`),
  );
/** A way that a sentence may go, without anything to fill in. */
const WAY = /(=\d+|\w+) \{[^{}]*\}/g;
const CHOSEN = /\{(\w+), (plural|select),/g;
/** What is filled in, and what it is chosen by. */
function holes(text: string): string[] {
  const chosen = [...text.matchAll(CHOSEN)].map((m) => m[1] as string);
  // Only what is chosen among has ways.
  const left =
    chosen.length > 0
      ? text.replace(WAY, (way, name) => (/^(=\d+|[a-z]+)$/i.test(name) && isWay(text, way) ? "" : way))
      : text;
  return [...new Set([...chosen, ...[...left.matchAll(/\{(\w+)\}/g)].map((m) => m[1] as string)])].sort();
}
/** It stands within a choice, not beside it. */
function isWay(text: string, way: string): boolean {
  const before = text.slice(0, text.indexOf(way));
  return before.split("{").length > before.split("}").length;
}
const english = flat(MESSAGES.en as unknown as Tree);

describe.each(language.options.filter((l) => l !== "en"))("words in %s", (other) => {
  const theirs = new Map(flat(MESSAGES[other] as unknown as Tree));
  it("are there for each in English, and no others", () => {
    expect([...theirs.keys()].sort()).toEqual(english.map(([key]) => key).sort());
  });
  it("are filled with the same, and are not left in English or empty", () => {
    for (const [key, text] of english) {
      const translated = theirs.get(key) ?? "";
      expect(holes(translated), key).toEqual(holes(text));
      if (/\w/.test(text.replace(/\{\w+\}/g, ""))) {
        expect(translated.trim(), key).not.toBe("");
        expect(translated, key).not.toBe(text);
      }
    }
  });
});

describe.each(language.options)("every sentence in %s", (locale) => {
  it("can be written", () => {
    const wrong: string[] = [];
    const t = createTranslator({
      locale,
      messages: MESSAGES[locale],
      onError: (error) => wrong.push(error.message),
      getMessageFallback: ({ key }) => key,
    }) as unknown as { rich: (key: string, values: object) => unknown };
    const values = { count: 2, b: (chunks: unknown) => chunks };
    for (const [key, text] of flat(MESSAGES[locale] as unknown as Tree)) {
      const numbers = ["at", "of", "problems", "left", "fine", "looked", "skipped"];
      const filled = Object.fromEntries(holes(text).map((h) => [h, numbers.includes(h) ? 3 : "x"]));
      t.rich(key, { ...filled, ...values });
    }
    expect(wrong).toEqual([]);
  });
});
