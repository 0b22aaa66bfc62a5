import type { Knex } from "knex";

export async function up(knex: Knex): Promise<void> {
  await knex.raw(`
    -- What new sites of an organisation begin with. No zone: that of whoever begins one.
    alter table organisation
      add column time_zone text check (length(time_zone) between 1 and 80),
      add column units text not null default 'metric' check (units in ('metric', 'us')),
      add column school text not null default 'watchful' check (length(school) between 1 and 80);
  `);
}

export async function down(): Promise<void> {
  throw new Error("Migrations run forward only.");
}
