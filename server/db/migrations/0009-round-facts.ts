import type { Knex } from "knex";

export async function up(knex: Knex): Promise<void> {
  await knex.raw(`
    -- What Rounds shows of a site's file, kept with the summary of its night so that Rounds reads no whole files.
    alter table site_summary add column facts jsonb;
    delete from site_summary;
    alter table site_summary alter column facts set not null;
  `);
}

export async function down(): Promise<void> {
  throw new Error("Migrations run forward only.");
}
