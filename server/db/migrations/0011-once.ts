import type { Knex } from "knex";

export async function up(knex: Knex): Promise<void> {
  await knex.raw(`
    -- What was asked under a key of the asker's and done: asked again it is not done again, and answered alike.
    create table done_once (
      organisation_id uuid not null references organisation,
      key text not null check (length(key) between 8 and 100),
      at timestamptz not null default now(),
      answer jsonb not null,
      primary key (organisation_id, key)
    );
    create index done_once_at on done_once (at);
    alter table done_once enable row level security;
    create policy own_organisation on done_once using (organisation_id = presa_organisation());
    grant select, insert, update, delete on done_once to presa_app;

    -- A drill is answered once by each person: the first answer stands.
    delete from drill_result d using drill_result e
      where d.site_id = e.site_id and d.user_id = e.user_id and d.version = e.version and d.date = e.date
        and d.seed = e.seed and (d.done_at, d.id) > (e.done_at, e.id);
    create unique index drill_result_once on drill_result (site_id, user_id, version, date, seed);
  `);
}

export async function down(): Promise<void> {
  throw new Error("Migrations run forward only.");
}
