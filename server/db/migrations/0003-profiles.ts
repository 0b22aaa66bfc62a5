import type { Knex } from "knex";

export async function up(knex: Knex): Promise<void> {
  await knex.raw(`
    -- Kinds of controller, as the organisation describes them; a site's controller names one by its id.
    create table controller_profile (
      id uuid primary key default gen_random_uuid(),
      organisation_id uuid not null references organisation,
      name text not null check (length(name) between 1 and 200),
      profile jsonb not null,
      kept_by uuid not null,
      kept_at timestamptz not null default now(),
      foreign key (organisation_id, kept_by) references app_user (organisation_id, id)
    );
    create unique index controller_profile_name on controller_profile (organisation_id, lower(name));
  `);
}

export async function down(): Promise<void> {
  throw new Error("Migrations run forward only.");
}
