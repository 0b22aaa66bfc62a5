import type { Knex } from "knex";

export async function up(knex: Knex): Promise<void> {
  await knex.raw(`
    -- For how many days an organisation keeps what it reads; null: for ever.
    alter table organisation
      add column readings_days integer check (readings_days between 31 and 36500),
      add column events_days integer check (events_days between 31 and 36500),
      add column photos_days integer check (photos_days between 31 and 36500);

    -- What is left of readings and events that are no longer kept one by one.
    create table reading_hour (
      organisation_id uuid not null references organisation,
      site_id uuid not null,
      sensor_id text not null,
      quantity text not null check (quantity in ('flow', 'pressure')),
      hour timestamptz not null,
      count integer not null check (count > 0),
      mean double precision not null,
      least double precision not null,
      most double precision not null,
      primary key (site_id, sensor_id, quantity, hour),
      foreign key (organisation_id, site_id) references site (organisation_id, id)
    );
    create table event_day (
      organisation_id uuid not null references organisation,
      site_id uuid not null,
      day date not null,
      type text not null,
      subject_id text not null,
      count integer not null check (count > 0),
      primary key (site_id, day, type, subject_id),
      foreign key (organisation_id, site_id) references site (organisation_id, id)
    );

    -- Who did what that has to be answered for later. Only added to; it goes with its organisation.
    create table audit (
      id bigint generated always as identity primary key,
      organisation_id uuid not null references organisation,
      at timestamptz not null default now(),
      user_id uuid,
      who text not null check (length(who) between 1 and 200),
      what text not null check (length(what) between 1 and 40),
      about text not null default '' check (length(about) <= 300),
      address text
    );
    create index audit_of_organisation on audit (organisation_id, id desc);

    do $$ declare name text; begin
      foreach name in array array['reading_hour', 'event_day', 'audit'] loop
        execute format('alter table %I enable row level security', name);
        execute format('create policy own_organisation on %I using (organisation_id = presa_organisation())', name);
      end loop;
    end $$;
    grant select, insert, update, delete on reading_hour, event_day to presa_app;
    -- What stands in the audit is neither changed nor taken out by who is audited.
    grant select, insert on audit to presa_app;

    -- That an organisation was erased, when and by whom: all that is left of it. The operator's alone.
    create table erasure (
      id bigint generated always as identity primary key,
      organisation_id uuid not null unique,
      organisation text not null,
      at timestamptz not null default now(),
      asked_by text not null,
      rows jsonb not null
    );
    alter table erasure enable row level security;
    revoke all on erasure from presa_app;
  `);
}

export async function down(): Promise<void> {
  throw new Error("Migrations run forward only.");
}
