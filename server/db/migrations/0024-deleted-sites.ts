import type { Knex } from "knex";

export async function up(knex: Knex): Promise<void> {
  await knex.raw(`
    -- Of a site that was deleted its file is kept, as it was.
    create table deleted_site (
      id uuid primary key,
      organisation_id uuid not null references organisation,
      name text not null,
      file text not null,
      deleted_by text not null,
      deleted_at timestamptz not null default now()
    );
    alter table deleted_site enable row level security;
    create policy own_organisation on deleted_site using (organisation_id = presa_organisation());
    grant select on deleted_site to presa_app;
  `);
}

export async function down(): Promise<void> {
  throw new Error("Migrations run forward only.");
}
