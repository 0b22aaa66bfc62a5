import type { Knex } from "knex";

export async function up(knex: Knex): Promise<void> {
  await knex.raw(`
    -- How often what a controller's settings are compared with has changed: a comparison begun before is not kept.
    alter table controller_holds add news integer not null default 0;
  `);
}

export async function down(): Promise<void> {
  throw new Error("Migrations run forward only.");
}
