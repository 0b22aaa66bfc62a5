import { mkdirSync, rmSync, writeFileSync } from "node:fs";
import { dirname } from "node:path";
import { afterAll, describe, expect, it } from "vitest";
// @ts-expect-error a plain script without types
import { breaches } from "../tools/arrows.mjs";

/** A file that breaks the rule, as it would be written, and the rule. */
const PLANTED: [file: string, source: string, rule: string][] = [
  ["core/planted/a.ts", 'import "../../server/log.ts";', "core-rooms"],
  ["core/planted/b.ts", 'import type { Knex } from "knex";\nexport type A = Knex;', "core-packages"],
  ["core/planted/c.ts", 'import { readFileSync } from "node:fs";\nexport const a = readFileSync;', "core-no-node"],
  [
    "core/planted/d.ts",
    'import { smallSite } from "../../testing/small-site.ts";\nexport const a = smallSite;',
    "core-rooms",
  ],
  ["core/planted/e.ts", 'import "lucide-react";', "core-packages"],
  ["contracts/planted/a.ts", 'import "../../components/kit/button.tsx";', "contracts-rooms"],
  ["contracts/planted/b.ts", 'import "react";', "contracts-packages"],
  [
    "components/planted/a.tsx",
    'import { siteOf } from "@/server/services/sites";\nexport const a = siteOf;',
    "components-rooms",
  ],
  [
    "components/planted/b.tsx",
    'import type { RoundsRow } from "@/server/services/rounds";\nexport type A = RoundsRow;',
    "components-rooms",
  ],
  ["components/planted/c.tsx", 'import "@/app/layout";', "components-rooms"],
  ["components/planted/d.tsx", 'import "pg";', "components-packages"],
  [
    "components/planted/e.tsx",
    'import { readFileSync } from "node:fs";\nexport const a = readFileSync;',
    "components-no-node",
  ],
  ["components/kit/planted.tsx", 'import "@/components/draft/store";', "kit-stands-alone"],
  ["server/planted/a.ts", 'import "../../components/kit/button.tsx";', "server-rooms"],
  ["server/planted/b.ts", 'import "react";', "server-packages"],
  ["server/services/planted.ts", 'import knex from "knex";\nexport const a = knex;', "knex-only-in-db"],
  [
    "server/db/planted.ts",
    'import { siteOf } from "../services/sites.ts";\nexport const a = siteOf;',
    "db-knows-no-services",
  ],
  [
    "app/planted/a.ts",
    'import { db } from "@/server/db/connection";\nexport const a = db;',
    "app-never-around-services",
  ],
  ["app/planted/b.ts", 'import "@/workers/compute.worker";', "app-rooms"],
  ["app/planted/c.ts", 'import "knex";', "app-packages"],
  ["messages/planted.ts", 'import "../components/kit/button.tsx";', "messages-rooms"],
  ["messages/planted2.ts", 'import "use-intl/core";', "messages-packages"],
  ["cli/planted.ts", 'import "../server/log.ts";', "cli-rooms"],
  ["cli/planted2.ts", 'import "mqtt";', "cli-packages"],
  ["gateway/planted.ts", 'import "../server/log.ts";', "gateway-rooms"],
  ["gateway/planted2.ts", 'import "react";', "gateway-packages"],
  ["workers/planted.ts", 'import "../components/kit/button.tsx";', "workers-rooms"],
  ["workers/planted2.ts", 'import "react";', "workers-packages"],
  ["server/planted/c.ts", 'import "../../testing/small-site.ts";', "nothing-imports-tests"],
];

const written: string[] = [];
const plant = (file: string, source: string): void => {
  mkdirSync(dirname(file), { recursive: true });
  writeFileSync(file, `${source}\n`);
  written.push(file);
};

afterAll(() => {
  for (const file of written) rmSync(file, { force: true });
  for (const room of ["core", "contracts", "components", "server", "app"])
    rmSync(`${room}/planted`, { recursive: true, force: true });
});

describe("the arrows of the house", () => {
  it("catch a planted breach of every rule", async () => {
    for (const [file, source] of PLANTED) plant(file, source);
    plant("core/planted/one.ts", 'import type { B } from "./two.ts";\nexport type A = B | 1;');
    plant("core/planted/two.ts", 'import type { A } from "./one.ts";\nexport type B = A | 2;');
    plant("core/planted/up.ts", 'import "../units/planted.ts";');
    plant("core/units/planted.ts", 'import "../planted/up2.ts";');
    plant("core/planted/up2.ts", "export {};");
    const found: { rule: string; from: string }[] = await breaches(written);
    const caught = new Set(found.map((b) => `${b.rule} ${b.from}`));
    expect(PLANTED.map(([file, , rule]) => `${rule} ${file}`).filter((wanted) => !caught.has(wanted))).toEqual([]);
    expect([...caught].some((c) => c.startsWith("no-cycles core/planted/"))).toBe(true);
    expect([...caught].some((c) => c.startsWith("no-folder-cycles core/"))).toBe(true);
  });
});
