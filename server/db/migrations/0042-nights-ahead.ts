import type { Knex } from "knex";

/** The nights after this one, as far as they are worked out: for the calendar (handbook#14-season). */
export async function up(knex: Knex): Promise<void> {
  await knex.raw(`
    create table night_ahead (
      site_id uuid primary key,
      organisation_id uuid not null,
      -- Of which revision, and after which night.
      version integer not null,
      date date not null,
      -- [{ date, shortfallMin }]
      nights jsonb not null,
      foreign key (organisation_id, site_id) references site (organisation_id, id)
    );
    alter table night_ahead enable row level security;
    create policy own_organisation on night_ahead using (organisation_id = presa_organisation());
    create policy own_sites on night_ahead as restrictive using ((select presa_person()) is null
      or site_id in (select p.site_id from site_person p where p.user_id = (select presa_person())));
    grant select, insert, update, delete on night_ahead to presa_app;
  `);
}

export async function down(): Promise<void> {
  throw new Error("Migrations run forward only.");
}
