import type { Knex } from "knex";

/** What every station of a controller drew, or resisted, in turn (handbook#14-season). */
export async function up(knex: Knex): Promise<void> {
  await knex.raw(`
    create table valve_check (
      id uuid primary key,
      organisation_id uuid not null,
      site_id uuid not null,
      controller_id text not null check (length(controller_id) between 1 and 80),
      at timestamptz not null,
      how text not null check (how in ('typed', 'pasted', 'gateway')),
      unit text not null check (unit in ('mA', 'ohm')),
      -- [{stationId, value}]
      readings jsonb not null,
      by_name text not null,
      made_at timestamptz not null default now(),
      foreign key (organisation_id, site_id) references site (organisation_id, id)
    );
    create index valve_check_of_site on valve_check (site_id, at desc);
    alter table valve_check enable row level security;
    create policy own_organisation on valve_check using (organisation_id = presa_organisation());
    create policy own_sites on valve_check as restrictive using ((select presa_person()) is null
      or site_id in (select p.site_id from site_person p where p.user_id = (select presa_person())));
    grant select, insert on valve_check to presa_app;
    -- What gateways have answered so far.
    insert into valve_check (id, organisation_id, site_id, controller_id, at, how, unit, readings, by_name)
      select o.id, o.organisation_id, o.site_id, o.what ->> 'controllerId', coalesce(o.answered_at, o.asked_at), 'gateway', 'mA',
        (select coalesce(jsonb_agg(jsonb_build_object('stationId', m.key, 'value', m.value)), '[]') from jsonb_each(o.milliamps) m),
        coalesce(u.name, 'Presa')
      from controller_order o left join app_user u on u.id = o.asked_by
      where o.milliamps is not null and o.what ->> 'kind' = 'check';
  `);
}

export async function down(): Promise<void> {
  throw new Error("Migrations run forward only.");
}
