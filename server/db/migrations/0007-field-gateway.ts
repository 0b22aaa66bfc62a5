import type { Knex } from "knex";

export async function up(knex: Knex): Promise<void> {
  await knex.raw(`
    -- A site's live source: one gateway a site.
    create table field_gateway (
      site_id uuid primary key,
      organisation_id uuid not null,
      url text not null check (length(url) <= 200),
      topic text not null check (length(topic) between 1 and 100),
      set_by uuid not null,
      set_at timestamptz not null default now(),
      state text not null default 'waiting' check (state in ('waiting', 'live', 'silent', 'unreachable')),
      heard_at timestamptz,
      says jsonb,
      foreign key (organisation_id, site_id) references site (organisation_id, id),
      foreign key (organisation_id, set_by) references app_user (organisation_id, id)
    );

    -- How far each numbered stream has been taken in, with what the judge remembered then: kept in the same transaction as the readings.
    create table field_stream (
      site_id uuid not null,
      organisation_id uuid not null,
      stream text not null,
      first_seq bigint not null check (first_seq >= 1),
      applied_seq bigint not null,
      last_at timestamptz,
      judge jsonb,
      readings bigint not null default 0,
      events bigint not null default 0,
      repeats bigint not null default 0,
      lost bigint not null default 0,
      begun_at timestamptz not null default now(),
      primary key (site_id, stream),
      foreign key (organisation_id, site_id) references site (organisation_id, id)
    );

    -- What stood open at each instant that was read, and what every sensor read then; by month.
    create table field_instant (
      organisation_id uuid not null,
      site_id uuid not null,
      at timestamptz not null,
      stream text not null,
      seq bigint not null,
      open text[] not null,
      valves text[] not null,
      pumps text[] not null,
      primary key (site_id, at, stream, seq)
    ) partition by range (at);
    create table reading (
      organisation_id uuid not null,
      site_id uuid not null,
      at timestamptz not null,
      stream text not null,
      seq bigint not null,
      sensor_id text not null,
      quantity text not null check (quantity in ('flow', 'pressure')),
      value double precision not null check (value >= 0),
      primary key (site_id, at, stream, seq, sensor_id)
    ) partition by range (at);

    create function ensure_month(parent text, moment timestamptz) returns void language plpgsql as $$
    declare
      first date := date_trunc('month', moment at time zone 'UTC')::date;
      part text := parent || '_' || to_char(first, 'YYYY_MM');
    begin
      if to_regclass(part) is null then
        begin
          execute format('create table %I partition of %I for values from (%L) to (%L)', part, parent, first::text || ' 00:00+00', (first + interval '1 month')::date::text || ' 00:00+00');
        exception when duplicate_table then null;
        end;
      end if;
    end $$;
    drop function ensure_site_event_month;

    alter table site_event alter column bench_run_id drop not null;
    alter table site_event add column stream text, add column seq bigint;
    create index alarm_live on alarm (site_id, at desc) where bench_run_id is null;
  `);
}

export async function down(): Promise<void> {
  throw new Error("Migrations run forward only.");
}
