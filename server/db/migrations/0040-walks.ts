import type { Knex } from "knex";

/** Walks from station to station, files that come in pieces, and which sessions were ended: what the phone needs behind it (handbook#14-season). */
export async function up(knex: Knex): Promise<void> {
  await knex.raw(`
    create table walk (
      id uuid primary key,
      organisation_id uuid not null,
      site_id uuid not null,
      station_ids text[] not null check (cardinality(station_ids) between 1 and 10000),
      begun_at timestamptz not null,
      ended_at timestamptz,
      note text not null default '' check (length(note) <= 4000),
      by_id uuid not null references app_user,
      by_name text not null,
      made_at timestamptz not null default now(),
      unique (organisation_id, site_id, id),
      check (ended_at is null or ended_at >= begun_at),
      foreign key (organisation_id, site_id) references site (organisation_id, id)
    );
    create index walk_of_site on walk (site_id, begun_at desc);
    -- What came of a station; the newest counts, none is lost.
    create table walk_entry (
      id uuid primary key,
      organisation_id uuid not null,
      site_id uuid not null,
      walk_id uuid not null,
      station_id text not null check (length(station_id) between 1 and 80),
      state text not null check (state in ('fine', 'problem', 'skipped')),
      problem text check (length(problem) <= 40),
      read_lpm double precision check (read_lpm >= 0),
      note text not null check (length(note) <= 1000),
      photo_ids uuid[] not null check (cardinality(photo_ids) <= 12),
      at timestamptz not null,
      by_name text not null,
      made_at timestamptz not null default now(),
      foreign key (organisation_id, site_id, walk_id) references walk (organisation_id, site_id, id)
    );
    create index walk_entry_of_walk on walk_entry (walk_id, at);
    -- What has come of a file so far: it goes on where it broke off.
    create table arriving_file (
      id uuid primary key,
      organisation_id uuid not null,
      site_id uuid not null,
      of_bytes integer not null check (of_bytes between 1 and 16777216),
      content bytea not null,
      begun_at timestamptz not null default now(),
      check (length(content) <= of_bytes),
      foreign key (organisation_id, site_id) references site (organisation_id, id)
    );
    do $$ declare t text; begin
      foreach t in array array['walk', 'walk_entry', 'arriving_file'] loop
        execute format('alter table %I enable row level security', t);
        execute format('create policy own_organisation on %I using (organisation_id = presa_organisation())', t);
        execute format('create policy own_sites on %I as restrictive using ((select presa_person()) is null
          or site_id in (select p.site_id from site_person p where p.user_id = (select presa_person())))', t);
      end loop;
    end $$;
    grant select, insert, update on walk to presa_app;
    grant select, insert on walk_entry to presa_app;
    grant select, insert, update, delete on arriving_file to presa_app;

    create function note_walk() returns trigger language plpgsql security definer set search_path = public as $f$
      declare r walk;
      begin
        if tg_op = 'DELETE' then
          delete from happening where site_id = old.site_id and sort = 'walk' and ref = old.id::text;
          return null;
        end if;
        r := new;
        insert into happening (organisation_id, site_id, at, sort, ref) values (r.organisation_id, r.site_id, r.begun_at, 'walk', r.id);
        return null;
      end $f$;
    create trigger happening after insert or delete on walk for each row execute function note_walk();

    -- Whether a session was ended, by its owner or from the office: a phone that still holds it forgets what it has. Whoever has the session's id, which nobody guesses, learns it.
    create function session_was_ended(wanted uuid) returns boolean language sql stable security definer set search_path = public as
      $f$ select exists (select 1 from session s where s.id = wanted and s.ended_at is not null) $f$;
    revoke all on function session_was_ended from public;
    grant execute on function session_was_ended to presa_app;
  `);
}

export async function down(): Promise<void> {
  throw new Error("Migrations run forward only.");
}
