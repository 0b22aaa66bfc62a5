import type { Knex } from "knex";

export async function up(knex: Knex): Promise<void> {
  await knex.raw(`
    -- Facts of a site say where it is, too: each is worked out anew.
    delete from site_summary;
    insert into round_due (site_id, organisation_id) select id, organisation_id from site on conflict (site_id) do update set taken_at = null;
  `);
}

export async function down(): Promise<void> {
  throw new Error("Migrations run forward only.");
}
