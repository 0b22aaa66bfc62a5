import type { Knex } from "knex";

export async function up(knex: Knex): Promise<void> {
  await knex.raw(`
    -- One change made on many sites: a revision of each, undone as one.
    create table deed (
      id uuid primary key,
      organisation_id uuid not null references organisation,
      name text not null check (length(name) between 1 and 200),
      change jsonb not null,
      made_by uuid not null,
      made_at timestamptz not null default now(),
      unique (organisation_id, id),
      foreign key (organisation_id, made_by) references app_user (organisation_id, id)
    );
    create index deed_newest on deed (organisation_id, made_at desc);
    create table deed_site (
      organisation_id uuid not null,
      deed_id uuid not null,
      site_id uuid not null,
      before_version integer not null,
      after_version integer not null check (after_version > before_version),
      undone_version integer check (undone_version > after_version),
      primary key (deed_id, site_id),
      foreign key (organisation_id, deed_id) references deed (organisation_id, id),
      foreign key (organisation_id, site_id) references site (organisation_id, id)
    );
    do $$ declare t text; begin
      foreach t in array array['deed', 'deed_site'] loop
        execute format('alter table %I enable row level security', t);
        execute format('create policy own_organisation on %I using (organisation_id = presa_organisation())', t);
        execute format('grant select, insert, update, delete on %I to presa_app', t);
      end loop;
    end $$;
    create policy own_sites on deed_site as restrictive using ((select presa_person()) is null
      or site_id in (select p.site_id from site_person p where p.user_id = (select presa_person())));
  `);
}

export async function down(): Promise<void> {
  throw new Error("Migrations run forward only.");
}
