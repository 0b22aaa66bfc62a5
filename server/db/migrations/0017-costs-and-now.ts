import type { Knex } from "knex";

/** What a live alarm has cost by its readings, and the last reading of each stream as Rounds shows it. */
export async function up(knex: Knex): Promise<void> {
  await knex.raw(`
    alter table alarm add column departed_from timestamptz, add column departed_min double precision, add column departed_l double precision;
    alter table field_stream add column now jsonb;
    -- How many items a send changed is told by its items; some databases still have a column for it.
    alter table controller_send drop column if exists changes;
  `);
}

export async function down(): Promise<void> {
  throw new Error("Migrations run forward only.");
}
