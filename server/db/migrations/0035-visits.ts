import type { Knex } from "knex";

/** Visits with their checklists, what is to do, what is done anew from time to time, and the calendar's secret addresses (handbook#14-season). */
export async function up(knex: Knex): Promise<void> {
  await knex.raw(`
    -- The organisation's own checklists and what it asks for by the calendar; none: the usual ones.
    create table visit_setup (
      organisation_id uuid primary key references organisation,
      checklists jsonb not null,
      duties jsonb not null,
      version integer not null check (version > 0),
      set_by text not null,
      set_at timestamptz not null default now()
    );
    create table visit (
      id uuid primary key,
      organisation_id uuid not null,
      site_id uuid not null,
      checklist_id text not null check (length(checklist_id) between 1 and 40),
      name text not null check (length(name) between 1 and 80),
      -- Its lines as they stood when it began.
      lines jsonb not null,
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
    create index visit_of_site on visit (site_id, begun_at desc);
    create index visit_of_organisation on visit (organisation_id, begun_at);
    -- What came of a line; the newest counts, none is lost.
    create table visit_entry (
      id uuid primary key,
      organisation_id uuid not null,
      site_id uuid not null,
      visit_id uuid not null,
      line_id text not null check (length(line_id) between 1 and 40),
      state text not null check (state in ('ok', 'done', 'problem', 'left')),
      note text not null check (length(note) <= 1000),
      photo_ids uuid[] not null check (cardinality(photo_ids) <= 12),
      at timestamptz not null,
      by_name text not null,
      made_at timestamptz not null default now(),
      foreign key (organisation_id, site_id, visit_id) references visit (organisation_id, site_id, id)
    );
    create index visit_entry_of_visit on visit_entry (visit_id, at);
    create table todo (
      id uuid primary key,
      organisation_id uuid not null,
      site_id uuid not null,
      words text not null check (length(words) between 1 and 500),
      subject_id text check (length(subject_id) between 1 and 80),
      owner_id uuid references app_user,
      due date,
      photo_ids uuid[] not null check (cardinality(photo_ids) <= 12),
      -- Where it comes from.
      visit_id uuid,
      line_id text,
      made_by text not null,
      made_at timestamptz not null default now(),
      done_at timestamptz,
      done_by text,
      done_words text,
      version integer not null default 1,
      check ((done_at is null) = (done_by is null)),
      foreign key (organisation_id, site_id) references site (organisation_id, id),
      foreign key (organisation_id, site_id, visit_id) references visit (organisation_id, site_id, id)
    );
    create index todo_open on todo (organisation_id, site_id) where done_at is null;
    create index todo_of_site on todo (site_id, made_at desc);
    create table duty_done (
      id uuid primary key,
      organisation_id uuid not null,
      site_id uuid not null,
      duty text not null check (duty in ('battery', 'backflow', 'sensorProof', 'learning', 'spring', 'winter')),
      subject_id text check (length(subject_id) between 1 and 80),
      on_day date not null,
      words text not null check (length(words) <= 500),
      visit_id uuid,
      by_name text not null,
      made_at timestamptz not null default now(),
      foreign key (organisation_id, site_id) references site (organisation_id, id),
      foreign key (organisation_id, site_id, visit_id) references visit (organisation_id, site_id, id)
    );
    create index duty_done_of_site on duty_done (site_id, duty, on_day desc);
    -- Under which somebody's calendar is read from outside, as a digest. Another one ends it.
    create table calendar_address (
      user_id uuid primary key references app_user,
      organisation_id uuid not null references organisation,
      digest bytea not null unique,
      made_at timestamptz not null default now()
    );
    do $$ declare t text; begin
      foreach t in array array['visit_setup', 'visit', 'visit_entry', 'todo', 'duty_done', 'calendar_address'] loop
        execute format('alter table %I enable row level security', t);
        execute format('create policy own_organisation on %I using (organisation_id = presa_organisation())', t);
      end loop;
      foreach t in array array['visit', 'visit_entry', 'todo', 'duty_done'] loop
        execute format('create policy own_sites on %I as restrictive using ((select presa_person()) is null
          or site_id in (select p.site_id from site_person p where p.user_id = (select presa_person())))', t);
      end loop;
      foreach t in array array['todo', 'duty_done'] loop
        execute format('create trigger round_due after insert or update or delete on %I for each row execute function note_round_due()', t);
      end loop;
    end $$;
    -- What is asked for by the calendar is asked of every site.
    create function note_setup_due() returns trigger language plpgsql security definer set search_path = public as $f$
      begin
        insert into round_due (site_id, organisation_id) select id, organisation_id from site where organisation_id = new.organisation_id
          on conflict (site_id) do update set taken_at = null;
        perform pg_notify('presa_round_due', '{}');
        return null;
      end $f$;
    create trigger round_due after insert or update on visit_setup for each row execute function note_setup_due();
    grant select, insert, update, delete on visit_setup, calendar_address to presa_app;
    grant select, insert, update on visit, todo to presa_app;
    grant select, insert on visit_entry to presa_app;
    grant select, insert, delete on duty_done to presa_app;
    -- Facts hold more than they did; each is worked out anew.
    delete from site_summary;
  `);
}

export async function down(): Promise<void> {
  throw new Error("Migrations run forward only.");
}
