import type { Knex } from "knex";

export async function up(knex: Knex): Promise<void> {
  await knex.raw(`
    create table organisation (
      id uuid primary key default gen_random_uuid(),
      name text not null check (length(name) between 1 and 200),
      created_at timestamptz not null default now()
    );

    create table app_user (
      id uuid primary key default gen_random_uuid(),
      organisation_id uuid not null references organisation,
      email text not null unique check (email = lower(email) and position('@' in email) > 1),
      name text not null check (length(name) between 1 and 200),
      role text not null check (role in ('manager', 'technician', 'viewer')),
      password_hash text not null,
      created_at timestamptz not null default now(),
      unique (organisation_id, id)
    );

    create table site (
      id uuid primary key default gen_random_uuid(),
      organisation_id uuid not null references organisation,
      file_id text not null,
      name text not null,
      version integer not null default 0 check (version >= 0),
      created_at timestamptz not null default now(),
      unique (organisation_id, file_id),
      unique (organisation_id, id)
    );

    -- The configuration itself: one whole site file a revision, never changed, never deleted.
    create table revision (
      organisation_id uuid not null,
      site_id uuid not null,
      version integer not null check (version >= 1),
      site_file jsonb not null,
      changes jsonb not null,
      note text not null default '',
      made_by uuid not null,
      made_at timestamptz not null default now(),
      primary key (site_id, version),
      foreign key (organisation_id, site_id) references site (organisation_id, id),
      foreign key (organisation_id, made_by) references app_user (organisation_id, id)
    );

    -- What the current revision is made of, for queries over sites and for whatever points at an element.
    create table element (
      organisation_id uuid not null,
      site_id uuid not null,
      element_id text not null,
      kind text not null check (kind in ('source', 'poc', 'mainline', 'controller', 'station', 'program', 'device')),
      name text not null,
      number integer check (number >= 0),
      expected_lpm double precision check (expected_lpm >= 0),
      locked_out boolean not null default false,
      present boolean not null default true,
      primary key (site_id, element_id),
      foreign key (organisation_id, site_id) references site (organisation_id, id)
    );
    create index element_locked on element (organisation_id) where locked_out;

    create table site_summary (
      organisation_id uuid not null,
      site_id uuid not null,
      version integer not null,
      date date not null,
      summary jsonb not null,
      primary key (site_id, date),
      foreign key (organisation_id, site_id) references site (organisation_id, id)
    );

    create table learning_run (
      id uuid primary key default gen_random_uuid(),
      organisation_id uuid not null,
      site_id uuid not null,
      version integer not null,
      state text not null check (state in ('queued', 'running', 'done', 'stopped', 'failed')),
      request jsonb not null,
      baseline jsonb not null default '[]',
      refused jsonb not null default '[]',
      seconds integer,
      litres double precision,
      asked_by uuid not null,
      asked_at timestamptz not null default now(),
      ended_at timestamptz,
      foreign key (organisation_id, site_id) references site (organisation_id, id),
      foreign key (organisation_id, asked_by) references app_user (organisation_id, id)
    );
    create index learning_run_site on learning_run (site_id, asked_at desc);

    create table learning_result (
      run_id uuid not null references learning_run,
      organisation_id uuid not null references organisation,
      site_id uuid not null,
      element_id text not null,
      verdict text not null check (verdict in ('accepted', 'unsteady', 'noFlow', 'overCeiling', 'stopped')),
      mean_lpm double precision not null check (mean_lpm >= 0),
      sd_lpm double precision not null check (sd_lpm >= 0),
      samples integer not null check (samples >= 0),
      seconds_to_steady integer,
      learned_at timestamptz not null default now(),
      taken_by uuid references app_user,
      taken_at timestamptz,
      primary key (run_id, element_id),
      foreign key (site_id, element_id) references element (site_id, element_id)
    );

    create table bench_run (
      id uuid primary key default gen_random_uuid(),
      organisation_id uuid not null,
      site_id uuid not null,
      version integer not null,
      night date not null,
      request jsonb not null,
      totals jsonb not null,
      unwatered jsonb not null,
      run_by uuid not null,
      run_at timestamptz not null default now(),
      foreign key (organisation_id, site_id) references site (organisation_id, id),
      foreign key (organisation_id, run_by) references app_user (organisation_id, id)
    );

    create table alarm (
      id uuid primary key default gen_random_uuid(),
      organisation_id uuid not null,
      site_id uuid not null,
      bench_run_id uuid references bench_run,
      at timestamptz not null,
      kind text not null check (kind in ('stationHigh', 'stationLow', 'mainline', 'supply', 'burst', 'offSchedule', 'notFoundAgain', 'pumpNoFlow', 'sensor')),
      subject_id text not null,
      measured_lpm double precision not null,
      expected_lpm double precision not null,
      message text not null,
      locked text[] not null default '{}',
      state text not null default 'open' check (state in ('open', 'acknowledged', 'cleared')),
      cause text,
      acknowledged_by uuid references app_user,
      acknowledged_at timestamptz,
      cleared_by uuid references app_user,
      cleared_at timestamptz,
      check (state <> 'cleared' or (cleared_by is not null and cause is not null)),
      foreign key (organisation_id, site_id) references site (organisation_id, id),
      foreign key (site_id, subject_id) references element (site_id, element_id)
    );
    create index alarm_open on alarm (organisation_id, site_id) where state <> 'cleared';
    create index alarm_site_at on alarm (site_id, at desc);

    -- History by month: what happened on a site, second by second.
    create table site_event (
      organisation_id uuid not null,
      site_id uuid not null,
      at timestamptz not null,
      type text not null,
      subject_id text not null,
      reason text not null,
      bench_run_id uuid not null
    ) partition by range (at);
    create index site_event_site_at on site_event (site_id, at desc);

    create function ensure_site_event_month(moment timestamptz) returns void language plpgsql as $$
    declare
      first date := date_trunc('month', moment at time zone 'UTC')::date;
      part text := 'site_event_' || to_char(first, 'YYYY_MM');
    begin
      if to_regclass(part) is null then
        begin
          execute format('create table %I partition of site_event for values from (%L) to (%L)', part, first::text || ' 00:00+00', (first + interval '1 month')::date::text || ' 00:00+00');
        exception when duplicate_table then null;
        end;
      end if;
    end $$;
  `);
}

export async function down(): Promise<void> {
  throw new Error("Migrations run forward only.");
}
