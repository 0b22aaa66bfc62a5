// Adds to package-lock.json the optional packages of other platforms that a partial registry mirror could not list, so that
// `npm ci` accepts the lock everywhere. Run after `npm install`: node tools/complete-lock.mjs
import { readFileSync, writeFileSync } from "node:fs";

const lock = JSON.parse(readFileSync("package-lock.json", "utf8"));
const systems = ["android", "darwin", "freebsd", "linux", "netbsd", "openbsd", "openharmony", "sunos", "win32", "aix"];
const processors = {
  arm64: "arm64",
  x64: "x64",
  ia32: "ia32",
  arm: "arm",
  armv7: "arm",
  gnueabihf: "arm",
  ppc64: "ppc64",
  riscv64: "riscv64",
  s390x: "s390x",
  loong64: "loong64",
  mips64el: "mips64el",
  wasm32: "wasm32",
};
let added = 0;
for (const [path, entry] of Object.entries(lock.packages))
  for (const [name, range] of Object.entries(entry.optionalDependencies ?? {})) {
    const nested = `${path}/node_modules/${name}`;
    const top = `node_modules/${name}`;
    if (path === "" || lock.packages[nested] || lock.packages[top]) continue;
    const words = name.split(/[/-]/);
    const os = systems.filter((s) => words.includes(s) || (s === "win32" && words.includes("windows")));
    const cpu = Object.entries(processors)
      .filter(([word]) => words.some((w) => w === word))
      .map(([, c]) => c);
    lock.packages[top] = {
      version: range.replace(/^[^\d]*/, ""),
      ...(entry.dev ? { dev: true } : {}),
      optional: true,
      ...(os.length > 0 ? { os } : {}),
      ...(cpu.length > 0 ? { cpu: [...new Set(cpu)] } : {}),
      ...(words.includes("musl") ? { libc: ["musl"] } : {}),
    };
    added++;
  }
lock.packages = Object.fromEntries(Object.entries(lock.packages).sort(([a], [b]) => a.localeCompare(b, "en")));
writeFileSync("package-lock.json", `${JSON.stringify(lock, null, 2)}\n`);
console.log(`${added} optional packages added`);
