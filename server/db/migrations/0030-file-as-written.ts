import type { Knex } from "knex";

/**
 * The file of a revision is kept as it was written: its keys stay in the schema's order, in which differences are told, so that it is read as it stands. What was
 * kept before has the order that the database gave it.
 */
export async function up(knex: Knex): Promise<void> {
  await knex.raw(`
    alter table revision alter column site_file type json using site_file::json;
    alter table revision alter column site_file set compression lz4;
  `);
}

export async function down(): Promise<void> {
  throw new Error("Migrations run forward only.");
}
