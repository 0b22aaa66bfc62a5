import type { Knex } from "knex";

export async function up(knex: Knex): Promise<void> {
  await knex.raw(`
    -- What a controller holds, as it said last, and what that differs from what Presa would send, as of a revision.
    create table controller_holds (
      organisation_id uuid not null,
      site_id uuid not null,
      controller_id text not null,
      read_at timestamptz not null,
      number integer not null check (number >= 0),
      checksum text not null,
      settings jsonb not null,
      by_hand_at timestamptz,
      clock_off_s double precision not null default 0,
      lockouts text[] not null default '{}',
      differences jsonb not null default '[]',
      compared_version integer,
      primary key (site_id, controller_id),
      foreign key (organisation_id, site_id) references site (organisation_id, id)
    );
    create index controller_holds_organisation on controller_holds (organisation_id);

    -- Settings on their way to a controller. A number is never used twice on a site.
    create table controller_send (
      id uuid primary key default gen_random_uuid(),
      organisation_id uuid not null,
      site_id uuid not null,
      controller_id text not null,
      number integer not null check (number >= 1),
      version integer not null,
      settings jsonb not null,
      checksum text not null,
      state text not null default 'waiting' check (state in ('waiting', 'sent', 'taken', 'partly', 'failed', 'overtaken')),
      reason text,
      items jsonb not null default '[]',
      asked_by uuid not null,
      asked_at timestamptz not null default now(),
      sent_at timestamptz,
      answered_at timestamptz,
      unique (site_id, number),
      foreign key (organisation_id, site_id) references site (organisation_id, id),
      foreign key (organisation_id, asked_by) references app_user (organisation_id, id)
    );
    create index controller_send_open on controller_send (site_id) where state in ('waiting', 'sent');
    create index controller_send_of on controller_send (site_id, controller_id, number desc);

    -- What controllers were asked to do; each is done at most once under its id.
    create table controller_order (
      id uuid primary key,
      organisation_id uuid not null,
      site_id uuid not null,
      what jsonb not null,
      state text not null default 'waiting' check (state in ('waiting', 'done', 'refused', 'expired')),
      reason text,
      milliamps jsonb,
      asked_by uuid,
      asked_at timestamptz not null default now(),
      expires_at timestamptz not null,
      answered_at timestamptz,
      foreign key (organisation_id, site_id) references site (organisation_id, id),
      foreign key (organisation_id, asked_by) references app_user (organisation_id, id)
    );
    create index controller_order_open on controller_order (site_id) where state = 'waiting';
    create index controller_order_site on controller_order (site_id, asked_at desc);

    -- A difference that somebody chose to leave, as long as both sides stay as they were then.
    create table difference_note (
      organisation_id uuid not null,
      site_id uuid not null,
      controller_id text not null,
      path text not null,
      ours text not null,
      theirs text not null,
      words text not null,
      noted_by uuid not null,
      noted_at timestamptz not null default now(),
      primary key (site_id, controller_id, path),
      foreign key (organisation_id, site_id) references site (organisation_id, id),
      foreign key (organisation_id, noted_by) references app_user (organisation_id, id)
    );

    do $$ declare t text; begin
      foreach t in array array['controller_holds', 'controller_send', 'controller_order', 'difference_note'] loop
        execute format('alter table %I enable row level security', t);
        execute format('create policy own_organisation on %I using (organisation_id = presa_organisation())', t);
        execute format('grant select, insert, update, delete on %I to presa_app', t);
      end loop;
    end $$;

    -- The last night for which everything was read back, and what of a gateway's answers could not be read.
    alter table field_gateway add column read_back_on date,
      add column set_aside integer not null default 0, add column set_aside_words text;
    alter table organisation add column read_back_at text not null default '05:00' check (read_back_at ~ '^[0-2][0-9]:[0-5][0-9]$');

    -- What the controller did by itself is nobody's work.
    alter table revision add column by_site boolean not null default false;

    -- Learning at the controllers themselves.
    alter table learning_run drop constraint learning_run_how_check,
      add constraint learning_run_how_check check (how in ('bench', 'readings', 'list', 'stopwatch', 'controller')),
      add column order_id uuid references controller_order;
    create index learning_run_order on learning_run (order_id) where order_id is not null;
  `);
}

export async function down(): Promise<void> {
  throw new Error("Migrations run forward only.");
}
