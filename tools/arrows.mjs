// The arrows of the house: every import against the allow-lists of .dependency-cruiser.mjs.   node tools/arrows.mjs [FILE…]
import { execFileSync } from "node:child_process";
import { existsSync } from "node:fs";
import { cruise } from "dependency-cruiser";
import extractBabelConfig from "dependency-cruiser/config-utl/extract-babel-config";
import configuration from "../.dependency-cruiser.mjs";

const RESOLVE = { extensions: [".ts", ".tsx", ".js", ".mjs", ".cjs", ".json", ".d.ts"] };

/** Folders of core that need each other, directly or by way of others: `core/a → core/b → core/a`. Tests aside. */
function folderCycles(modules) {
  const folderOf = (file) => /^core\/[^/]+(?=\/)/.exec(file)?.[0];
  const arrows = new Map();
  for (const m of modules) {
    const from = folderOf(m.source);
    if (!from || /\.test\.ts$/.test(m.source)) continue;
    for (const d of m.dependencies) {
      const to = folderOf(d.resolved);
      if (to && to !== from) arrows.set(from, (arrows.get(from) ?? new Map()).set(to, m.source));
    }
  }
  const found = new Map();
  const walk = (folder, way) => {
    const at = way.indexOf(folder);
    if (at >= 0) {
      const cycle = way.slice(at);
      found.set([...cycle].sort().join(), [...cycle, folder].join(" → "));
      return;
    }
    if (way.length < 12) for (const next of arrows.get(folder)?.keys() ?? []) walk(next, [...way, folder]);
  };
  for (const folder of arrows.keys()) walk(folder, []);
  return [...found.values()];
}

/** Imports that no arrow allows, among these files: `{ rule, from, to, comment }`. */
export async function breaches(files) {
  const { options, forbidden } = configuration;
  const babelConfig = await extractBabelConfig(options.babelConfig.fileName);
  const { output } = await cruise(files, { ...options, validate: true, ruleSet: { forbidden } }, RESOLVE, {
    babelConfig,
  });
  const unread = output.modules.filter((m) => m.dependencies.some((d) => d.couldNotResolve));
  return [
    ...output.summary.violations.map((v) => ({
      rule: v.rule.name,
      from: v.from,
      to: v.cycle ? v.cycle.map((c) => c.name).join(" → ") : v.to,
      comment: forbidden.find((f) => f.name === v.rule.name)?.comment ?? "",
    })),
    ...folderCycles(output.modules).map((cycle) => ({
      rule: "no-folder-cycles",
      from: cycle.split(" → ")[0],
      to: cycle,
      comment: "folders of core/ have an order: what is lower knows nothing of what is higher",
    })),
    ...unread.flatMap((m) =>
      m.dependencies
        .filter((d) => d.couldNotResolve && /^[.@\w]/.test(d.module) && !d.module.endsWith(".css"))
        .map((d) => ({ rule: "unresolved", from: m.source, to: d.module, comment: "leads nowhere" })),
    ),
  ];
}

export function sources() {
  return execFileSync("git", ["ls-files", "--cached", "--others", "--exclude-standard", "*.ts", "*.tsx"], {
    encoding: "utf8",
  })
    .split("\n")
    .filter((f) => /^(app|components|contracts|core|server|workers|cli|gateway|testing)\//.test(f) && existsSync(f));
}

if (import.meta.url === `file://${process.argv[1]}`) {
  const files = process.argv.slice(2);
  const found = await breaches(files.length > 0 ? files : sources());
  for (const b of found) console.error(`${b.rule}: ${b.from} → ${b.to}\n    ${b.comment}`);
  console.error(`arrows: ${found.length === 0 ? "clean" : `${found.length} not allowed`}`);
  process.exitCode = found.length === 0 ? 0 : 1;
}
