import { execFileSync } from "node:child_process";
import { readFileSync } from "node:fs";
import { describe, expect, it } from "vitest";

const DOCUMENTS = ["handbook", "site-file"] as const;
const anchors = new Map(
  DOCUMENTS.map((name) => [
    name as string,
    new Set([...readFileSync(`docs/rules/${name}.md`, "utf8").matchAll(/<a id="([\w-]+)"><\/a>/g)].map((m) => m[1])),
  ]),
);
const sources = execFileSync("git", ["ls-files", "--cached", "--others", "--exclude-standard", "*.ts", "*.tsx"], {
  encoding: "utf8",
})
  .split("\n")
  .filter((f) => f !== "" && !f.endsWith("citations.test.ts"));

/** Every place in the code that cites a rule: `handbook#8-limits`. */
const citations = sources.flatMap((file) =>
  readFileSync(file, "utf8")
    .split("\n")
    .flatMap((line, i) =>
      [...line.matchAll(/\b(handbook|site-file)#([\w-]+)/g)].map((m) => ({
        at: `${file}:${i + 1}`,
        document: m[1] as string,
        anchor: m[2] as string,
      })),
    ),
);

describe("citations of the rules", () => {
  it("are many, and every one leads to an anchor of docs/rules/", () => {
    expect(citations.length).toBeGreaterThan(60);
    expect(citations.filter((c) => !anchors.get(c.document)?.has(c.anchor))).toEqual([]);
  });

  it("are written by anchor, never by a bare number", () => {
    const bare = sources.filter((file) => /\((handbook|site-file)[ ,:][^)]*\d/.test(readFileSync(file, "utf8")));
    expect(bare).toEqual([]);
  });
});
