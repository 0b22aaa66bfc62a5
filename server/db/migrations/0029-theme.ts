import type { Knex } from "knex";

export async function up(knex: Knex): Promise<void> {
  await knex.raw(`
    -- The theme that somebody likes, wherever they sign in; none: what the browser had.
    alter table app_user add column theme text check (theme in ('day', 'night'));
  `);
}

export async function down(): Promise<void> {
  throw new Error("Migrations run forward only.");
}
