import { afterAll, beforeAll, describe, expect, it } from "vitest";
import { twoPeople } from "../../testing/server-people.ts";
import { smallSite } from "../../testing/small-site.ts";
import type { InSession } from "../auth/session.ts";
import { endHeavy } from "../heavy/pool.ts";
import { takeBenchNight } from "../services/log-book.ts";
import { ALL_SITES, rounds } from "../services/rounds.ts";
import { amendSite, importSite, loadSite } from "../services/sites.ts";
import { closeDatabase, db, inTransaction } from "./connection.ts";
import { asOperator, inOrganisation, reachNow } from "./reach.ts";

let maren: InSession;
let stranger: InSession;
let site: string;
beforeAll(async () => {
  [maren, stranger] = await twoPeople();
  const file = smallSite((s) => {
    s.site.id = "fenced";
  });
  site = (await inOrganisation(maren.organisationId, () => importSite(maren, JSON.stringify(file)))).id;
});
afterAll(async () => {
  await endHeavy();
  await closeDatabase();
});

const NOBODY = { organisationId: "00000000-0000-0000-0000-000000000000", personId: null };
const within = <T>(of: { organisationId: string }, work: () => Promise<T>): Promise<T> =>
  inOrganisation(of.organisationId, work);
const count = async (table: string): Promise<number> => Number((await db()(table).count({ n: "*" }).first())?.n);
/** Every table that holds what belongs to an organisation. */
const tables = async (): Promise<string[]> =>
  (
    await asOperator(() =>
      db().raw(
        "select c.relname as name from pg_class c join pg_namespace n on n.oid = c.relnamespace where n.nspname = 'public' and c.relkind in ('r','p') and not c.relispartition and exists (select from pg_attribute a where a.attrelid = c.oid and a.attname = 'organisation_id' and not a.attisdropped)",
      ),
    )
  ).rows.map((r: { name: string }) => r.name);

describe("the fence in the database", () => {
  it("stands round every table that belongs to an organisation", async () => {
    const { rows } = await asOperator(() =>
      db().raw(
        "select c.relname as name from pg_class c join pg_namespace n on n.oid = c.relnamespace where n.nspname = 'public' and c.relkind in ('r','p') and not c.relispartition and not c.relrowsecurity",
      ),
    );
    const open = rows.map((r: { name: string }) => r.name);
    for (const table of await tables()) if (table !== "session") expect(open, table).not.toContain(table);
  });
  it("shows an organisation its own rows and nobody else's, whatever is asked", async () => {
    await inOrganisation(maren.organisationId, () =>
      takeBenchNight(maren, site, {
        date: "2026-07-14",
        faults: [{ at: "+60", kind: "brokenLateral", subjectId: "s1", size: 90 }],
        seed: 1,
        exact: true,
      }),
    );
    for (const table of ["site", "revision", "element", "alarm", "site_event", "bench_run"]) {
      expect(await within(maren, () => count(table)), table).toBeGreaterThan(0);
      expect(await within(stranger, () => count(table)), table).toBe(0);
      expect(await within(NOBODY, () => count(table)), table).toBe(0);
    }
    expect(await within(stranger, () => count("organisation"))).toBe(1);
    expect(await within(stranger, async () => (await db()("app_user").select("name")).map((r) => r.name))).toEqual([
      "stranger",
    ]);
  });
  it("lets nobody write into another's, nor read passwords of sessions", async () => {
    await expect(within(stranger, () => db()("site").where({ id: site }).update({ name: "mine now" }))).resolves.toBe(
      0,
    );
    await expect(
      within(stranger, () =>
        db()("library_item").insert({
          organisationId: maren.organisationId,
          name: "x",
          kind: "meter",
          body: "{}",
          note: "",
          keptBy: maren.userId,
        }),
      ),
    ).rejects.toThrow(/row-level security/);
    await expect(within(stranger, () => count("session"))).rejects.toThrow(/permission denied/);
  });
  it("holds within a transaction, and after one that was rolled back", async () => {
    await within(stranger, () => inTransaction(async () => expect(await count("site")).toBe(0)));
    const broken = within(maren, () =>
      inTransaction(async () => {
        await count("site");
        throw new Error("given up");
      }),
    );
    await expect(broken).rejects.toThrow("given up");
    await expect(within(maren, () => inTransaction(async () => void (await db().raw("select 1/0"))))).rejects.toThrow();
    for (let i = 0; i < 12; i++) expect(await within(stranger, () => count("site"))).toBe(0);
    expect(await within(maren, () => count("site"))).toBe(1);
  });
  it("holds for many at once on the same few connections", async () => {
    const seen = await Promise.all(
      Array.from({ length: 60 }, (_, i) => within(i % 2 ? maren : stranger, () => count("site"))),
    );
    expect(seen).toEqual(Array.from({ length: 60 }, (_, i) => (i % 2 ? 1 : 0)));
  });
  it("does not stand in the way of the work", async () => {
    const loaded = await within(maren, () => loadSite(maren, site));
    expect(loaded.file.site.id).toBe("fenced");
    const saved = await within(maren, () =>
      amendSite(maren, site, "renamed", (f) => ({ ...f, site: { ...f.site, name: "Fenced" } })),
    );
    expect(saved.version).toBe(loaded.version + 1);
    const page = await within(maren, () => rounds(maren, ALL_SITES, new Date("2026-07-14T10:00:00Z")));
    expect(page.rows.map((r) => r.name)).toEqual(["Fenced"]);
  });
  it("is open to the operator's own processes only", async () => {
    expect(reachNow()).toBe("operator");
    expect(await asOperator(() => count("site"))).toBeGreaterThan(0);
    expect(await within(NOBODY, async () => reachNow())).toEqual(NOBODY);
  });
});
