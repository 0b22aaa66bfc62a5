// What failed in a run, a line each with how it failed, from the JSON that Vitest or Playwright wrote.   node tools/failures.mjs FILE
import { readFileSync } from "node:fs";
import { stripVTControlCharacters } from "node:util";

function read(file) {
  try {
    return JSON.parse(readFileSync(file, "utf8"));
  } catch {
    return {};
  }
}
const brief = (message) =>
  stripVTControlCharacters(String(message ?? ""))
    .split("\n")
    .slice(0, 3)
    .join(" ")
    .slice(0, 300);
const run = read(process.argv[2]);
for (const file of run.testResults ?? []) {
  const failed = file.assertionResults.filter((t) => t.status === "failed");
  if (file.status === "failed" && failed.length === 0) console.log(`  ${file.name}: ${brief(file.message)}`);
  for (const t of failed) console.log(`  ${file.name}: ${t.fullName}: ${brief(t.failureMessages?.[0])}`);
}
const walk = (suite) => {
  for (const spec of suite.specs ?? [])
    if (!spec.ok || spec.tests.some((t) => t.status === "flaky"))
      console.log(
        `  ${spec.file}:${spec.line} ${spec.title}: ${brief(spec.tests[0]?.results.find((r) => r.error)?.error?.message)}`,
      );
  for (const inner of suite.suites ?? []) walk(inner);
};
for (const suite of run.suites ?? []) walk(suite);
