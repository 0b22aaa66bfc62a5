import type { Knex } from "knex";

/** Counters of sensors and readings of meters, and what each sensor had read of the day at those instants (handbook#14-season). */
export async function up(knex: Knex): Promise<void> {
  await knex.raw(`
    -- A counter begins anew; what it stood at is told by the readings, and never lost.
    create table counter_reset (
      id uuid primary key,
      organisation_id uuid not null,
      site_id uuid not null,
      sensor_id text not null check (length(sensor_id) between 1 and 80),
      counter smallint not null check (counter in (1, 2)),
      at timestamptz not null,
      reason text not null check (length(reason) between 1 and 500),
      by_name text not null,
      foreign key (organisation_id, site_id) references site (organisation_id, id)
    );
    create index counter_reset_of_sensor on counter_reset (site_id, sensor_id, counter, at desc);
    create table meter_reading (
      id uuid primary key,
      organisation_id uuid not null,
      site_id uuid not null,
      meter_id text not null check (length(meter_id) between 1 and 80),
      at timestamptz not null,
      m3 double precision not null check (m3 between 0 and 1e9),
      -- Another meter, or the same set back: what came before is not counted up to here.
      begins boolean not null,
      note text not null default '' check (length(note) <= 1000),
      photo_id uuid,
      by_name text not null,
      made_at timestamptz not null default now(),
      unique (site_id, meter_id, at),
      foreign key (organisation_id, site_id) references site (organisation_id, id)
    );
    -- Litres that a sensor had read since midnight at such an instant; made with the day, from its readings.
    create table water_cut (
      organisation_id uuid not null,
      site_id uuid not null,
      day date not null,
      at timestamptz not null,
      sensor_id text not null,
      litres double precision not null check (litres >= 0),
      primary key (site_id, at, sensor_id),
      foreign key (organisation_id, site_id) references site (organisation_id, id)
    );
    create index water_cut_of_day on water_cut (site_id, day);
    do $$ declare t text; begin
      foreach t in array array['counter_reset', 'meter_reading', 'water_cut'] loop
        execute format('alter table %I enable row level security', t);
        execute format('create policy own_organisation on %I using (organisation_id = presa_organisation())', t);
        execute format('create policy own_sites on %I as restrictive using ((select presa_person()) is null
          or site_id in (select p.site_id from site_person p where p.user_id = (select presa_person())))', t);
      end loop;
    end $$;
    grant select, insert on counter_reset to presa_app;
    grant select, insert, delete on meter_reading to presa_app;
    grant select, insert, update, delete on water_cut to presa_app;
  `);
}

export async function down(): Promise<void> {
  throw new Error("Migrations run forward only.");
}
