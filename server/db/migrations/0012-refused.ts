import type { Knex } from "knex";

export async function up(knex: Knex): Promise<void> {
  await knex.raw("alter table field_stream add column refused bigint not null default 0");
}

export async function down(): Promise<void> {
  throw new Error("Migrations run forward only.");
}
