import pg from "pg";
import { z } from "zod";
import { databaseUrl, db, inTransaction } from "./connection.ts";

/** Columns that leave the database in no export. */
const SECRET = ["password_hash", "sealed_secret"];
/** Of no use to anyone outside, or a key to the door: who is signed in now, links, second steps, what was asked twice, and what is to be made anew. */
const PASSING = new Set([
  "session",
  "invitation",
  "two_factor",
  "recovery_code",
  "done_once",
  "round_due",
  "water_due",
  "calendar_address",
  "happening",
  "arriving_file",
  "night_ahead",
]);
const AT_ONCE = 500;
/** Rows that hold pictures and papers, of up to 16 MB each. */
const LARGE_AT_ONCE = 2;

const names = z.array(z.object({ name: z.string() }));
const arrows = z.array(z.object({ from: z.string(), to: z.string() }));

/** Every table that has rows of organisations, those that others point at first. */
export async function tablesOfOrganisations(ask: (sql: string) => Promise<unknown>): Promise<string[]> {
  const all = names
    .parse(
      await ask(`select c.relname as name from pg_class c join pg_attribute a on a.attrelid = c.oid
        where c.relnamespace = 'public'::regnamespace and c.relkind in ('r', 'p') and not c.relispartition
        and a.attname = 'organisation_id' and not a.attisdropped and c.relname <> 'erasure' order by 1`),
    )
    .map((t) => t.name);
  const points = arrows.parse(
    await ask(
      `select conrelid::regclass::text as "from", confrelid::regclass::text as "to" from pg_constraint where contype = 'f'`,
    ),
  );
  const sorted: string[] = [];
  const place = (name: string): void => {
    if (sorted.includes(name) || !all.includes(name)) return;
    for (const p of points) if (p.from === name && p.to !== name) place(p.to);
    if (!sorted.includes(name)) sorted.push(name);
  };
  for (const name of all) place(name);
  return sorted;
}

/**
 * Everything that is kept of an organisation as of one moment, as lines of JSON: `{ table, row }`, without passwords. On a connection of its own behind the fence, so that
 * nobody's requests wait for it.
 */
export async function* everythingOf(organisationId: string): AsyncGenerator<string> {
  const client = new pg.Client({ connectionString: databaseUrl() });
  await client.connect();
  try {
    const ask = async (sql: string, values: unknown[] = []): Promise<unknown[]> =>
      (await client.query(sql, values)).rows;
    const all = await tablesOfOrganisations(ask);
    const large = new Set(
      names
        .parse(
          await ask(
            "select distinct table_name as name from information_schema.columns where data_type = 'bytea' and table_schema = 'public'",
          ),
        )
        .map((t) => t.name),
    );
    await ask("begin isolation level repeatable read read only");
    for (const name of ["organisation", ...all]) {
      if (PASSING.has(name)) continue;
      const key = name === "organisation" ? "id" : "organisation_id";
      const row = SECRET.reduce((json, column) => `${json} - '${column}'`, "to_jsonb(t)");
      await ask(
        `declare everything no scroll cursor for select json_build_object('table', '${name}', 'row', ${row})::text as line from ${name} t where ${key} = $1`,
        [organisationId],
      );
      for (;;) {
        const rows = (await ask(`fetch ${large.has(name) ? LARGE_AT_ONCE : AT_ONCE} from everything`)) as {
          line: string;
        }[];
        if (rows.length === 0) break;
        yield rows.map((r) => `${r.line}\n`).join("");
      }
      await ask("close everything");
    }
  } finally {
    await client.end().catch(() => {});
  }
}

/**
 * Erases an organisation whole, in one transaction, and notes that it was done.
 *
 * @returns how many rows went, by table
 */
export async function eraseOrganisation(
  organisation: { id: string; name: string },
  askedBy: string,
): Promise<Record<string, number>> {
  return inTransaction(async () => {
    await db()("organisation").where({ id: organisation.id }).forUpdate().first("id");
    // What is being taken in ends first, and nothing is taken in after: streams, then sites so that no stream begins, then what began meanwhile.
    for (const table of ["field_stream", "site", "field_stream"])
      await db()(table).where({ organisationId: organisation.id }).forUpdate().select("organisation_id");
    const all = await tablesOfOrganisations(async (sql) => (await db().raw(sql)).rows);
    const rows: Record<string, number> = {};
    for (const name of all.reverse()) rows[name] = await db()(name).where({ organisationId: organisation.id }).delete();
    await db()("organisation").where({ id: organisation.id }).delete();
    await db()("erasure").insert({
      organisationId: organisation.id,
      organisation: organisation.name,
      askedBy,
      rows: JSON.stringify(rows),
    });
    return rows;
  });
}
