import type { Knex } from "knex";

export async function up(knex: Knex): Promise<void> {
  await knex.raw(`
    -- The language that somebody reads dates in, wherever they sign in; none: what the browser had.
    alter table app_user add column language text check (language in ('en', 'es'));
    -- What stands on an organisation's paper. A picture as it was brought, told from others by its version.
    create table logo (
      organisation_id uuid primary key references organisation,
      type text not null check (type in ('image/png', 'image/jpeg')),
      content bytea not null check (octet_length(content) between 1 and 1048576),
      version uuid not null default gen_random_uuid(),
      set_by text not null,
      set_at timestamptz not null default now()
    );
    alter table logo alter column content set storage external;
    alter table logo enable row level security;
    create policy own_organisation on logo using (organisation_id = presa_organisation());
    grant select, insert, update, delete on logo to presa_app;
  `);
}

export async function down(): Promise<void> {
  throw new Error("Migrations run forward only.");
}
