import type { Knex } from "knex";

export async function up(knex: Knex): Promise<void> {
  await knex.raw(`
    -- What came of each drill, by person. The hidden fault follows from revision, date and seed; the steps are kept as made.
    create table drill_result (
      id uuid primary key default gen_random_uuid(),
      organisation_id uuid not null,
      site_id uuid not null,
      version integer not null check (version >= 1),
      user_id uuid not null,
      done_at timestamptz not null default now(),
      date date not null,
      seed bigint not null check (seed >= 0),
      steps jsonb not null,
      hidden jsonb not null,
      named jsonb not null,
      named_right boolean not null,
      seconds integer not null check (seconds >= 0),
      lost_l double precision not null check (lost_l >= 0),
      used_l double precision not null check (used_l >= 0),
      foreign key (organisation_id, site_id) references site (organisation_id, id),
      foreign key (organisation_id, user_id) references app_user (organisation_id, id)
    );
    create index drill_result_site on drill_result (site_id, done_at desc);
    create index drill_result_user on drill_result (user_id, done_at desc);
  `);
}

export async function down(): Promise<void> {
  throw new Error("Migrations run forward only.");
}
