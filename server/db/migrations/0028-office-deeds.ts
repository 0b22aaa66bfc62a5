import type { Knex } from "knex";

export async function up(knex: Knex): Promise<void> {
  await knex.raw(`
    -- A deed may sort sites, or say who sees them: then no revision comes of it, and what was so before is kept in words.
    alter table deed_site drop constraint deed_site_check, drop constraint deed_site_check1,
      add constraint in_order check (after_version >= before_version and undone_version >= after_version),
      add column was text;
  `);
}

export async function down(): Promise<void> {
  throw new Error("Migrations run forward only.");
}
