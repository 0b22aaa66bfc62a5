import type { Knex } from "knex";

export async function up(knex: Knex): Promise<void> {
  await knex.raw(`
    -- What the files are that a site's file names: photographs, plans, papers. Never changed once there: every revision that names one means the very same.
    create table kept_file (
      id uuid primary key,
      organisation_id uuid not null,
      site_id uuid not null,
      type text not null check (type in ('image/jpeg', 'image/png', 'image/webp', 'application/pdf', 'application/octet-stream')),
      content bytea not null check (octet_length(content) between 1 and 16777216),
      size integer generated always as (octet_length(content)) stored,
      kept_by text not null,
      kept_at timestamptz not null default now(),
      -- Whether a revision ever named it; what none does goes after a while.
      named boolean not null default false,
      foreign key (organisation_id, site_id) references site (organisation_id, id)
    );
    -- Pictures and papers are packed already.
    alter table kept_file alter column content set storage external;
    create index kept_file_by_site on kept_file (organisation_id, site_id) include (size);
    alter table kept_file enable row level security;
    create policy own_organisation on kept_file using (organisation_id = presa_organisation());
    create policy own_sites on kept_file as restrictive using ((select presa_person()) is null
      or site_id in (select p.site_id from site_person p where p.user_id = (select presa_person())));
    grant select, insert, update on kept_file to presa_app;
  `);
}

export async function down(): Promise<void> {
  throw new Error("Migrations run forward only.");
}
