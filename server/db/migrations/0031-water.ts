import type { Knex } from "knex";

/** Water used, by day: rolled up from what was read, and kept when the readings no longer are (handbook#14-season). */
export async function up(knex: Knex): Promise<void> {
  await knex.raw(`
    -- What each sensor read in a day of the site's own calendar.
    create table sensor_day (
      organisation_id uuid not null,
      site_id uuid not null,
      day date not null,
      sensor_id text not null,
      source text not null check (source in ('gateway', 'log')),
      -- A log is mostly of a night: its evening and its morning are halves of two days, and brought apart.
      part text not null check (part in ('day', 'am', 'pm')),
      litres double precision not null check (litres >= 0),
      -- Of how much of the day something is known, s.
      seconds integer not null check (seconds between 0 and 90000),
      -- Where nothing is: [{ from, to }], s since 1970.
      gaps jsonb not null default '[]',
      made_at timestamptz not null default now(),
      primary key (site_id, day, part, sensor_id),
      foreign key (organisation_id, site_id) references site (organisation_id, id)
    );
    -- The same litres by what they were for. Ids are the site file's; empty: none.
    create table water_day (
      organisation_id uuid not null,
      site_id uuid not null,
      day date not null,
      part text not null check (part in ('day', 'am', 'pm')),
      sensor_id text not null,
      source_id text not null default '',
      poc_id text not null default '',
      mainline_id text not null default '',
      station_id text not null default '',
      program_id text not null default '',
      cause text not null check (cause in ('scheduled', 'byHand', 'learning', 'handWatering', 'offSchedule', 'broken')),
      estimated boolean not null,
      litres double precision not null check (litres > 0),
      primary key (site_id, day, part, sensor_id, station_id, program_id, cause, estimated),
      foreign key (organisation_id, site_id) references site (organisation_id, id)
    );
    -- Days that something was read of since they were rolled up.
    create table water_due (
      organisation_id uuid not null,
      site_id uuid not null,
      day date not null,
      noted_at timestamptz not null default now(),
      taken_at timestamptz,
      primary key (site_id, day),
      foreign key (organisation_id, site_id) references site (organisation_id, id)
    );
    do $$ declare t text; begin
      foreach t in array array['sensor_day', 'water_day', 'water_due'] loop
        execute format('alter table %I enable row level security', t);
        execute format('create policy own_organisation on %I using (organisation_id = presa_organisation())', t);
        execute format('create policy own_sites on %I as restrictive using ((select presa_person()) is null
          or site_id in (select p.site_id from site_person p where p.user_id = (select presa_person())))', t);
        execute format('grant select, insert, update, delete on %I to presa_app', t);
      end loop;
    end $$;
  `);
}

export async function down(): Promise<void> {
  throw new Error("Migrations run forward only.");
}
