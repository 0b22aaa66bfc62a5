import type { Knex } from "knex";

export async function up(knex: Knex): Promise<void> {
  await knex.raw(`
    -- The organisation's own devices, as their data sheets give them; reusable on every site.
    create table library_item (
      id uuid primary key default gen_random_uuid(),
      organisation_id uuid not null references organisation,
      kind text not null check (kind in ('meter', 'backflow', 'masterValve', 'pump', 'pipe', 'fixedLoss', 'regulator', 'pressureSensor', 'flowSensor')),
      name text not null check (length(name) between 1 and 200),
      note text not null default '' check (length(note) <= 1000),
      body jsonb not null,
      kept_by uuid not null,
      kept_at timestamptz not null default now(),
      foreign key (organisation_id, kept_by) references app_user (organisation_id, id)
    );
    create unique index library_item_name on library_item (organisation_id, kind, lower(name));
  `);
}

export async function down(): Promise<void> {
  throw new Error("Migrations run forward only.");
}
