import type { Knex } from "knex";

/** Water of each site by month: so that two years of many sites are answered at once. */
export async function up(knex: Knex): Promise<void> {
  await knex.raw(`
    create table water_month (
      organisation_id uuid not null,
      site_id uuid not null,
      -- The first day of a month of the site's own calendar.
      month date not null check (extract(day from month) = 1),
      litres double precision not null check (litres >= 0),
      -- Of them leaks and breaks; and, beside them, what was not read as planned.
      lost_l double precision not null check (lost_l >= 0),
      estimated_l double precision not null check (estimated_l >= 0),
      primary key (site_id, month),
      foreign key (organisation_id, site_id) references site (organisation_id, id)
    );
    create index water_month_of_organisation on water_month (organisation_id, month);
    alter table water_month enable row level security;
    create policy own_organisation on water_month using (organisation_id = presa_organisation());
    create policy own_sites on water_month as restrictive using ((select presa_person()) is null
      or site_id in (select p.site_id from site_person p where p.user_id = (select presa_person())));
    grant select, insert, update, delete on water_month to presa_app;
    insert into water_month (organisation_id, site_id, month, litres, lost_l, estimated_l)
      select organisation_id, site_id, date_trunc('month', day)::date,
        coalesce(sum(litres) filter (where not estimated), 0),
        coalesce(sum(litres) filter (where not estimated and cause in ('offSchedule', 'broken')), 0),
        coalesce(sum(litres) filter (where estimated), 0)
      from water_day group by 1, 2, 3;
    -- Facts hold more than they did; each is worked out anew.
    delete from site_summary;
  `);
}

export async function down(): Promise<void> {
  throw new Error("Migrations run forward only.");
}
