import { spawnSync } from "node:child_process";
import { existsSync, mkdtempSync, rmSync } from "node:fs";
import { tmpdir } from "node:os";
import { join } from "node:path";
import pg from "pg";
import { afterAll, beforeAll, expect, it } from "vitest";
import { twoPeople } from "../../testing/server-people.ts";
import { smallSite } from "../../testing/small-site.ts";
import type { SignedIn } from "../auth/session.ts";
import { importSite } from "../services/sites.ts";
import { closeDatabase, databaseUrl, db } from "./connection.ts";

let maren: SignedIn;
const folder = mkdtempSync(join(tmpdir(), "presa-backup-"));
const name = `restored_${process.pid}`;
const restored = Object.assign(new URL(databaseUrl()), { pathname: `/${name}` }).href;
const run = (command: string, url: string, file = join(folder, "presa.dump")) =>
  spawnSync(command, [file], { env: { ...process.env, DATABASE_URL: url }, encoding: "utf8" });

beforeAll(async () => {
  [maren] = await twoPeople();
  await db().raw(`create database ${name}`);
});
afterAll(async () => {
  await db().raw(`drop database ${name} with (force)`);
  rmSync(folder, { recursive: true, force: true });
  await closeDatabase();
});

it("what was backed up is there again after restoring, with its fence; a database with something in it is left alone", async () => {
  await importSite(maren, JSON.stringify(smallSite()));
  expect(run("bin/backup", databaseUrl())).toMatchObject({ status: 0, stderr: "" });
  expect(run("bin/restore", restored)).toMatchObject({ status: 0 });
  const client = new pg.Client({ connectionString: restored });
  await client.connect();
  const there = async (query: string): Promise<unknown> => (await client.query(query)).rows;
  for (const table of ["organisation", "app_user", "site", "revision", "element", "knex_migrations"]) {
    const { rows } = await db().raw(`select count(*) as n from ${table}`);
    expect(Number(((await there(`select count(*) as n from ${table}`)) as { n: unknown }[])[0]?.n), table).toBe(
      rows[0].n,
    );
  }
  await client.query("begin; set local role presa_app");
  expect(await there("select 1 from site")).toEqual([]);
  await client.query(`set local presa.organisation = '${maren.organisationId}'`);
  expect(await there("select 1 from site")).toHaveLength(1);
  await client.query("rollback");
  await client.end();
  expect(run("bin/restore", restored)).toMatchObject({
    status: 1,
    stderr: expect.stringContaining("nothing was restored"),
  });
});

it("that fails leaves no half a file", () => {
  const file = join(folder, "never.dump");
  expect(run("bin/backup", restored.replace(name, "no_such_database"), file).status).not.toBe(0);
  expect([existsSync(file), existsSync(`${file}.part`)]).toEqual([false, false]);
});
