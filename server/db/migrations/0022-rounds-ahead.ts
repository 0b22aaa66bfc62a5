import type { Knex } from "knex";

export async function up(knex: Knex): Promise<void> {
  await knex.raw(`
    -- Sites that are kept but no longer worked on.
    alter table site add column archived_at timestamptz;

    -- What Rounds says of a site, made ahead by a worker whenever one of the things it is made from has changed.
    create table site_round (
      organisation_id uuid not null,
      site_id uuid primary key,
      urgency integer not null,
      -- [{code, words, weight}], the worst first; and what its nights say, a line each.
      reasons jsonb not null,
      nights jsonb not null,
      made_at timestamptz not null default now(),
      foreign key (organisation_id, site_id) references site (organisation_id, id)
    );
    -- Sites whose round has to be made anew: entered by the database itself, taken out by the worker that makes it.
    create table round_due (
      organisation_id uuid not null,
      site_id uuid primary key,
      -- Since when a worker makes it; what changes meanwhile takes that back, so that it is made once more.
      taken_at timestamptz,
      foreign key (organisation_id, site_id) references site (organisation_id, id) on delete cascade
    );
    do $$ declare t text; begin
      foreach t in array array['site_round', 'round_due'] loop
        execute format('alter table %I enable row level security', t);
        execute format('create policy own_organisation on %I using (organisation_id = presa_organisation())', t);
        execute format('create policy own_sites on %I as restrictive using ((select presa_person()) is null
          or site_id in (select p.site_id from site_person p where p.user_id = (select presa_person())))', t);
        execute format('grant select on %I to presa_app', t);
      end loop;
    end $$;
    create function note_round_due() returns trigger language plpgsql security definer set search_path = public as $f$
      declare of record;
      begin
        if tg_op = 'DELETE' then of := old; else of := new; end if;
        insert into round_due (site_id, organisation_id) values (of.site_id, of.organisation_id)
          on conflict (site_id) do update set taken_at = null;
        perform pg_notify('presa_round_due', '{}');
        return null;
      end $f$;
    create function note_site_due() returns trigger language plpgsql security definer set search_path = public as $f$
      begin
        insert into round_due (site_id, organisation_id) values (new.id, new.organisation_id) on conflict (site_id) do update set taken_at = null;
        perform pg_notify('presa_round_due', '{}');
        return null;
      end $f$;
    create trigger round_due after update of version, archived_at on site for each row
      when (old.version is distinct from new.version or old.archived_at is distinct from new.archived_at) execute function note_site_due();
    do $$ declare t text; begin
      foreach t in array array['controller_holds', 'controller_send', 'difference_note', 'site_morning', 'finding_answer'] loop
        execute format('create trigger round_due after insert or update or delete on %I for each row execute function note_round_due()', t);
      end loop;
    end $$;
    create trigger round_due_new after insert or delete on field_gateway for each row execute function note_round_due();
    create trigger round_due after update on field_gateway for each row
      when (old.state is distinct from new.state or old.says is distinct from new.says) execute function note_round_due();
    -- Facts hold more than they did; each is worked out anew.
    delete from site_summary;
    -- What was found of the revision, [{key, words}]: so that what a change on many sites adds or mends is told without finding it all twice.
    alter table site_summary add column found jsonb not null;
    -- One of each site: the newest.
    alter table site_summary drop constraint site_summary_pkey, add primary key (site_id);

    -- Whole files are kept at every save: packed the quick way, where the database can.
    do $$ begin
      alter table revision alter column site_file set compression lz4;
    exception when feature_not_supported or invalid_parameter_value then null;
    end $$;

    -- What somebody looks at often: a screen with what is found, sorted and shown on it.
    create table saved_view (
      id uuid primary key,
      organisation_id uuid not null,
      user_id uuid not null,
      screen text not null check (screen in ('rounds', 'alarms')),
      name text not null check (length(name) between 1 and 60),
      query text not null check (length(query) <= 2000),
      unique (user_id, screen, name),
      foreign key (organisation_id, user_id) references app_user (organisation_id, id)
    );
    alter table saved_view enable row level security;
    create policy own_organisation on saved_view using (organisation_id = presa_organisation());
    grant select, insert, update, delete on saved_view to presa_app;

    -- Alarms by page, and everything by words.
    create index alarm_by_state on alarm (organisation_id, (state = 'cleared'), at desc);
    create extension if not exists pg_trgm;
    alter table element add column serial text;
    create index element_words on element using gin ((name || ' ' || coalesce(number::text, '') || ' ' || coalesce(serial, '')) gin_trgm_ops) where present;
    alter table alarm add column words text generated always as (lower(message || ' ' || coalesce(cause, ''))) stored;
    create index alarm_words on alarm using gin (words gin_trgm_ops);
    -- Looked for behind the fence, but by the index: a policy lets none be used, since matching words is not known to keep its mouth shut. Each keeps to the organisation
    -- and the sites of whoever asks by itself. longest is one of the words, for the index.
    create function elements_called(longest text, words text[], most integer)
      returns table (site_id uuid, element_id text, kind text, name text, number integer, serial text)
      language sql stable security definer set search_path = public as $f$
        select e.* from (select e.site_id, e.element_id, e.kind, e.name, e.number, e.serial from element e
        where e.organisation_id = presa_organisation() and e.present
          and (presa_person() is null or e.site_id in (select p.site_id from site_person p where p.user_id = presa_person()))
          and (e.name || ' ' || coalesce(e.number::text, '') || ' ' || coalesce(e.serial, '')) ilike longest
          and (e.name || ' ' || coalesce(e.number::text, '') || ' ' || coalesce(e.serial, '')) ilike all(words)
          -- Of words that many bear, any: who looks for one writes more.
          limit 500) e
        order by e.kind <> 'station', length(e.name), e.name limit most
      $f$;
    create function alarms_saying(longest text, words text[], most integer)
      returns table (id uuid, site_id uuid, message text, state text, at timestamptz)
      language sql stable security definer set search_path = public as $f$
        select a.* from (select a.id, a.site_id, a.message, a.state, a.at from alarm a
        where a.organisation_id = presa_organisation()
          and (presa_person() is null or a.site_id in (select p.site_id from site_person p where p.user_id = presa_person()))
          and a.words like longest and a.words like all(alarms_saying.words)
          limit 2000) a
        order by a.state = 'cleared', a.at desc limit most
      $f$;
    revoke all on function elements_called, alarms_saying from public;
    grant execute on function elements_called, alarms_saying to presa_app;
    update element e set serial = p.serial from (
      select s.id as site_id, x ->> 'id' as element_id, x ->> 'serial' as serial
      from site s join revision r on r.site_id = s.id and r.version = s.version,
        lateral (select jsonb_array_elements(r.site_file -> 'stations') union all
          select jsonb_array_elements(c -> 'devices') from jsonb_array_elements((r.site_file -> 'pocs') || (r.site_file -> 'mainlines')) c) of_site(x)
      where x ->> 'serial' is not null) p
    where p.site_id = e.site_id and p.element_id = e.element_id;
  `);
}

export async function down(): Promise<void> {
  throw new Error("Migrations run forward only.");
}
