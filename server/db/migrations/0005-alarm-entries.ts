import type { Knex } from "knex";

export async function up(knex: Knex): Promise<void> {
  await knex.raw(`
    alter table alarm
      add column assigned_to uuid references app_user;
    create index alarm_organisation_at on alarm (organisation_id, at desc);

    -- What people did and found about an alarm. Only added to.
    create table alarm_entry (
      id uuid primary key default gen_random_uuid(),
      organisation_id uuid not null,
      alarm_id uuid not null references alarm,
      at timestamptz not null default now(),
      made_by uuid not null,
      action text not null check (action in ('acknowledged', 'assigned', 'cause', 'note', 'photo', 'cleared', 'reopened')),
      words text not null default '' check (length(words) <= 4000),
      photo bytea check (octet_length(photo) <= 4194304),
      photo_type text check (photo_type in ('image/jpeg', 'image/png', 'image/webp')),
      foreign key (organisation_id, made_by) references app_user (organisation_id, id)
    );
    create index alarm_entry_alarm on alarm_entry (alarm_id, at);
  `);
}

export async function down(): Promise<void> {
  throw new Error("Migrations run forward only.");
}
