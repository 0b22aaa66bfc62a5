// Counts that must stay at nought, or within bounds: what the parts, the lint and the arrows cannot see.   node tools/counts.mjs
import { execFileSync } from "node:child_process";
import { existsSync, readFileSync } from "node:fs";

const files = execFileSync("git", ["ls-files", "--cached", "--others", "--exclude-standard"], { encoding: "utf8" })
  .split("\n")
  .filter((f) => /\.(ts|tsx|mjs|css)$/.test(f) && existsSync(f));
const text = new Map(files.map((f) => [f, readFileSync(f, "utf8")]));
const isTest = (f) => /\.(test|spec)\.tsx?$/.test(f);
const lines = (f) => text.get(f).split("\n").length - 1;

/** Interface outside the kit and the pictures that we draw ourselves. */
const screens = files.filter(
  (f) => /^(app|components)\/.*\.tsx$/.test(f) && !/^components\/(kit|pictures|charts)\//.test(f) && !isTest(f),
);
/** Signs that stand for an icon; arrows in sentences ("20 → 23"), units and dashes are words. */
const GLYPHS = /[\u25A0-\u25FF\u2600-\u27BF\u2B00-\u2BFF\u{1F300}-\u{1FAFF}\u23E9-\u23FA\u21BA\u21BB]/u;
const ELEMENTS = ["table", "input", "select", "button", "textarea", "dialog"];
/** A file may be longer than 400 lines if its first comment says why: `Long: …`. */
const LONGEST = 400;
/** The least share of tests, %. */
const LEAST_SHARE = 25;

const found = [
  ...ELEMENTS.flatMap((element) =>
    screens.flatMap((f) => {
      const count = (text.get(f).match(new RegExp(`<${element}[\\s>]`, "g")) ?? []).length;
      return count > 0 ? [`${count} raw <${element}> in ${f}: use components/kit/`] : [];
    }),
  ),
  ...files
    .filter((f) => /^(app|components)\/.*\.tsx?$/.test(f) && !isTest(f))
    .flatMap((f) => {
      const at = text
        .get(f)
        .split("\n")
        .findIndex((l) => GLYPHS.test(l));
      return at >= 0 ? [`glyph as an icon in ${f}:${at + 1}: use lucide-react or components/kit/icons`] : [];
    }),
  ...files
    .filter((f) => /^(app|components)\/.*\.tsx$/.test(f))
    .flatMap((f) =>
      /type="(date|time|datetime-local|month)"/.test(text.get(f)) ? [`native date or time input in ${f}`] : [],
    ),
  ...files
    .filter((f) => /\.tsx?$/.test(f) && lines(f) > LONGEST && !/Long: /.test(text.get(f).slice(0, 2000)))
    .map((f) => `${f} has ${lines(f)} lines: split it by concept, or say why in a comment that begins "Long: "`),
];

/** Lines with something on them; of tests only what tests itself, not what helps it. */
const written = (list) =>
  list.reduce(
    (n, f) =>
      n +
      text
        .get(f)
        .split("\n")
        .filter((l) => l.trim() !== "").length,
    0,
  );
const share = (100 * written(files.filter(isTest))) / written(files);
if (share < LEAST_SHARE || share > 33)
  found.push(`tests are ${share.toFixed(1)} % of the lines; 25 to 33 % is wanted, ${LEAST_SHARE} % is the least`);

for (const words of found) console.error(words);
console.error(
  `counts: ${found.length === 0 ? "clean" : `${found.length} to mend`} (tests ${share.toFixed(1)} % of the lines)`,
);
process.exitCode = found.length === 0 ? 0 : 1;
