import type { Knex } from "knex";

/** One head of a timeline is found as soon as all of it, however rare it is among a million things that happened. */
export async function up(knex: Knex): Promise<void> {
  await knex.raw(`
    create index happening_of_sort on happening (site_id, sort, at desc, ref desc);
    create index happening_also on happening (site_id, at desc) where also <> '{}';
  `);
}

export async function down(): Promise<void> {
  throw new Error("Migrations run forward only.");
}
