import type { Knex } from "knex";

export async function up(knex: Knex): Promise<void> {
  await knex.raw(`
    -- What each person wants to be told by mail, of which sites, and when. Who has chosen nothing is told nothing.
    create table telling (
      organisation_id uuid not null,
      user_id uuid primary key,
      alarms boolean not null,
      overdue boolean not null,
      -- Clocks as HH:MM in time_zone; from and to alike: all day. Null: no morning summary, no escalation.
      from_clock text not null check (from_clock ~ '^[0-2][0-9]:[0-5][0-9]$'),
      to_clock text not null check (to_clock ~ '^[0-2][0-9]:[0-5][0-9]$'),
      morning_clock text check (morning_clock ~ '^[0-2][0-9]:[0-5][0-9]$'),
      escalate_min integer check (escalate_min between 1 and 1440),
      time_zone text not null check (length(time_zone) between 1 and 80),
      -- Of sites in any of these groups; none: of all that they see.
      groups uuid[] not null,
      -- What happened before is not told.
      since timestamptz not null default now(),
      foreign key (organisation_id, user_id) references app_user (organisation_id, id)
    );
    create table letter (
      id uuid primary key,
      organisation_id uuid not null,
      user_id uuid not null,
      kind text not null check (kind in ('alarms', 'escalated', 'overdue', 'morning', 'trial')),
      -- Of a person one of each: nothing is written twice.
      key text not null check (length(key) between 1 and 200),
      subject text not null check (length(subject) <= 300),
      body text not null,
      made_at timestamptz not null default now(),
      -- unsure: its sender ended while it was on its way. It is not sent again, and is seen.
      state text not null default 'waiting' check (state in ('waiting', 'sending', 'sent', 'failed', 'unsure')),
      tries integer not null default 0,
      next_at timestamptz not null default now(),
      tried_at timestamptz,
      problem text,
      unique (user_id, key),
      foreign key (organisation_id, user_id) references app_user (organisation_id, id)
    );
    create index letter_waiting on letter (next_at) where state in ('waiting', 'sending');
    create index letter_newest on letter (organisation_id, made_at desc);
    -- What somebody was told of: an alarm, that nobody acknowledged it, something overdue; each once.
    create table told (
      organisation_id uuid not null,
      user_id uuid not null,
      key text not null check (length(key) between 1 and 400),
      at timestamptz not null default now(),
      primary key (user_id, key),
      foreign key (organisation_id, user_id) references app_user (organisation_id, id)
    );

    -- Another system that is told of alarms: calls are signed with a secret that only it and we know.
    create table webhook (
      id uuid primary key,
      organisation_id uuid not null references organisation,
      url text not null check (length(url) between 8 and 500),
      sealed_secret bytea not null,
      enabled boolean not null default true,
      made_by uuid not null,
      made_at timestamptz not null default now(),
      foreign key (organisation_id, made_by) references app_user (organisation_id, id)
    );
    create table webhook_call (
      id uuid primary key default gen_random_uuid(),
      organisation_id uuid not null references organisation,
      webhook_id uuid not null references webhook on delete cascade,
      body jsonb not null,
      made_at timestamptz not null default now(),
      state text not null default 'waiting' check (state in ('waiting', 'done', 'failed')),
      tries integer not null default 0,
      next_at timestamptz not null default now(),
      tried_at timestamptz,
      -- What it answered, or why it could not be reached.
      status integer,
      problem text
    );
    create index webhook_call_waiting on webhook_call (next_at) where state = 'waiting';
    create index webhook_call_newest on webhook_call (webhook_id, made_at desc);

    do $$ declare t text; begin
      foreach t in array array['telling', 'letter', 'told', 'webhook', 'webhook_call'] loop
        execute format('alter table %I enable row level security', t);
        execute format('create policy own_organisation on %I using (organisation_id = presa_organisation())', t);
        execute format('grant select, insert, update, delete on %I to presa_app', t);
      end loop;
    end $$;

    -- What becomes of an alarm of a site itself is news: those who wait to tell of it hear it at once, and other systems are called, in the same transaction.
    create function note_alarm_news() returns trigger language plpgsql security definer set search_path = public as $f$
      declare event text;
      begin
        if new.bench_run_id is not null then return null; end if;
        if tg_op = 'INSERT' then event := 'alarm.raised';
        elsif new.state = old.state then return null;
        else event := case new.state when 'open' then 'alarm.reopened' when 'acknowledged' then 'alarm.acknowledged' else 'alarm.cleared' end;
        end if;
        perform pg_notify('presa_alarm_news', '{}');
        insert into webhook_call (organisation_id, webhook_id, body)
          select new.organisation_id, w.id, jsonb_build_object(
            'event', event, 'at', to_char(now() at time zone 'UTC', 'YYYY-MM-DD"T"HH24:MI:SS"Z"'),
            'site', jsonb_build_object('id', s.id, 'name', s.name),
            'alarm', jsonb_build_object('id', new.id, 'at', to_char(new.at at time zone 'UTC', 'YYYY-MM-DD"T"HH24:MI:SS"Z"'), 'kind', new.kind,
              'subjectId', new.subject_id, 'measuredLpm', new.measured_lpm, 'expectedLpm', new.expected_lpm, 'message', new.message,
              'lockedIds', to_jsonb(new.locked), 'state', new.state, 'cause', new.cause))
          from webhook w join site s on s.id = new.site_id where w.organisation_id = new.organisation_id and w.enabled;
        return null;
      end $f$;
    create trigger alarm_news after insert or update of state on alarm for each row execute function note_alarm_news();
  `);
}

export async function down(): Promise<void> {
  throw new Error("Migrations run forward only.");
}
