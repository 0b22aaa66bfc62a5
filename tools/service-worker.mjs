/**
 * Writes the service worker into public/ after a build: which files the field's page needs is read from what was built.
 *
 * Usage: node tools/service-worker.mjs
 */
import { createHash } from "node:crypto";
import { readFileSync, readdirSync, writeFileSync } from "node:fs";
import { join } from "node:path";
import { fileURLToPath } from "node:url";
import { getManifest } from "@serwist/build";
import { build } from "esbuild";

const root = fileURLToPath(new URL("..", import.meta.url));
const at = (...parts) => join(root, ...parts);
const version = readFileSync(at(".next/BUILD_ID"), "utf8").trim();

/** Files of the page, from the manifests that Next writes of it: its own, and those of every page. */
function filesOfField() {
  const own = readFileSync(at(".next/server/app/field/page_client-reference-manifest.js"), "utf8");
  const every = JSON.parse(readFileSync(at(".next/build-manifest.json"), "utf8"));
  const named = [...own.matchAll(/static\/(?:chunks|media)\/[^"'\\]+\.(?:js|css|woff2)/g)].map((m) => m[0]);
  return new Set([...named, ...every.rootMainFiles, ...every.polyfillFiles].map((f) => f.replace(/^\/?_next\//, "")));
}

/** Fonts are named in the styles. */
function fontsOf(files) {
  const styles = [...files].filter((f) => f.endsWith(".css"));
  return styles.flatMap((css) =>
    [...readFileSync(at(".next", css), "utf8").matchAll(/media\/[^")'?]+\.woff2/g)].map((m) => `static/${m[0]}`),
  );
}

const files = filesOfField();
for (const font of fontsOf(files)) files.add(font);
const { manifestEntries, warnings } = await getManifest({
  globDirectory: at(".next"),
  globPatterns: [...files],
  modifyURLPrefix: { "static/": "/_next/static/" },
  maximumFileSizeToCacheInBytes: 8_000_000,
});
for (const warning of warnings) console.warn(warning);
if (manifestEntries.length < files.size)
  throw new Error(`Of ${files.size} files of the field's page ${manifestEntries.length} were found in .next.`);
const icons = readdirSync(at("public/icons")).map((f) => ({
  url: `/icons/${f}`,
  revision: createHash("sha256")
    .update(readFileSync(at("public/icons", f)))
    .digest("hex")
    .slice(0, 16),
}));
const entries = [
  ...manifestEntries,
  ...icons,
  { url: "/field", revision: version },
  { url: "/manifest.webmanifest", revision: version },
];
const { outputFiles } = await build({
  entryPoints: [at("workers/service-worker.ts")],
  bundle: true,
  minify: true,
  write: false,
  define: { "self.__SW_MANIFEST": JSON.stringify(entries), "process.env.NODE_ENV": '"production"' },
});
writeFileSync(at("public/service-worker.js"), outputFiles[0].text);
