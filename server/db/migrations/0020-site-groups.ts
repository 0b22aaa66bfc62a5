import type { Knex } from "knex";

export async function up(knex: Knex): Promise<void> {
  await knex.raw(`
    -- What sites are sorted by: whose they are, where, and who looks after them.
    create table site_group (
      id uuid primary key default gen_random_uuid(),
      organisation_id uuid not null references organisation,
      kind text not null check (kind in ('client', 'area', 'crew')),
      name text not null check (length(name) between 1 and 100),
      made_at timestamptz not null default now(),
      unique (organisation_id, kind, id)
    );
    create unique index site_group_name on site_group (organisation_id, kind, lower(name));
    alter table site
      add column client_id uuid, add column client_kind text generated always as ('client') stored,
      add column area_id uuid, add column area_kind text generated always as ('area') stored,
      add column crew_id uuid, add column crew_kind text generated always as ('crew') stored,
      add foreign key (organisation_id, client_kind, client_id) references site_group (organisation_id, kind, id),
      add foreign key (organisation_id, area_kind, area_id) references site_group (organisation_id, kind, id),
      add foreign key (organisation_id, crew_kind, crew_id) references site_group (organisation_id, kind, id);

    -- Who sees some sites only, and which. A manager sees all.
    alter table app_user add column own_sites_only boolean not null default false,
      add constraint managers_see_all check (role <> 'manager' or not own_sites_only);
    create table site_person (
      organisation_id uuid not null,
      user_id uuid not null,
      site_id uuid not null,
      primary key (user_id, site_id),
      foreign key (organisation_id, user_id) references app_user (organisation_id, id) on delete cascade,
      foreign key (organisation_id, site_id) references site (organisation_id, id) on delete cascade
    );
    create index site_person_site on site_person (site_id);

    do $$ declare t text; begin
      foreach t in array array['site_group', 'site_person'] loop
        execute format('alter table %I enable row level security', t);
        execute format('create policy own_organisation on %I using (organisation_id = presa_organisation())', t);
        execute format('grant select, insert, update, delete on %I to presa_app', t);
      end loop;
    end $$;

    -- The fence within an organisation: a request of somebody who sees some sites only is shown rows of those sites and no others. Whoever sees all is asked for no list.
    create function presa_person() returns uuid language sql stable as
      $f$ select nullif(current_setting('presa.person', true), '')::uuid $f$;
    do $$ declare t record; begin
      for t in
        select c.oid::regclass as name from pg_class c
        where c.relnamespace = 'public'::regnamespace and c.relkind in ('r', 'p') and not c.relispartition
          and c.relname <> 'site_person' and exists (
          select from pg_attribute a where a.attrelid = c.oid and a.attname = 'site_id' and not a.attisdropped)
      loop
        execute format('create policy own_sites on %s as restrictive using ((select presa_person()) is null
          or site_id in (select p.site_id from site_person p where p.user_id = (select presa_person())))', t.name);
      end loop;
    end $$;
    create policy own_sites on site as restrictive using ((select presa_person()) is null
      or id in (select p.site_id from site_person p where p.user_id = (select presa_person())));
    create policy own_sites on alarm_entry as restrictive using ((select presa_person()) is null
      or alarm_id in (select a.id from alarm a));
  `);
}

export async function down(): Promise<void> {
  throw new Error("Migrations run forward only.");
}
