import type { Knex } from "knex";

export async function up(knex: Knex): Promise<void> {
  await knex.raw(`
    -- Who is signed in where: a session that is ended counts no more, whatever cookie says.
    create table session (
      id uuid primary key default gen_random_uuid(),
      organisation_id uuid not null,
      user_id uuid not null,
      made_at timestamptz not null default now(),
      ended_at timestamptz,
      foreign key (organisation_id, user_id) references app_user (organisation_id, id) on delete cascade
    );
    create index session_of_user on session (user_id) where ended_at is null;

    -- Failed sign-ins by account and by address, as rate-limiter-flexible keeps them.
    create table sign_in_limit (key varchar(255) primary key, points integer not null default 0, expire bigint);

    -- The second fence (docs/decisions/0012-the-fence.md): requests are answered as presa_app, which sees rows of the
    -- organisation that is set for them and no others. Migrations and workers are the operator's and see all.
    do $$ begin
      if not exists (select from pg_roles where rolname = 'presa_app') then create role presa_app nologin; end if;
    end $$;
    grant presa_app to current_user;
    grant usage on schema public to presa_app;
    grant select, insert, update, delete on all tables in schema public to presa_app;
    grant usage, select on all sequences in schema public to presa_app;
    revoke all on knex_migrations, knex_migrations_lock, session, sign_in_limit from presa_app;

    create function presa_organisation() returns uuid language sql stable as
      $f$ select nullif(current_setting('presa.organisation', true), '')::uuid $f$;
    do $$ declare t record; begin
      for t in
        select c.oid::regclass as name from pg_class c join pg_namespace n on n.oid = c.relnamespace
        where n.nspname = 'public' and c.relkind in ('r', 'p') and exists (
          select from pg_attribute a where a.attrelid = c.oid and a.attname = 'organisation_id' and not a.attisdropped)
      loop
        execute format('alter table %s enable row level security', t.name);
        execute format('create policy own_organisation on %s using (organisation_id = presa_organisation())', t.name);
      end loop;
    end $$;
    alter table organisation enable row level security;
    create policy own_organisation on organisation using (id = presa_organisation());
    -- Partitions are made by whoever writes first in a month, with the operator's rights.
    alter function ensure_month(text, timestamptz) security definer set search_path = public;
  `);
}

export async function down(): Promise<void> {
  throw new Error("Migrations run forward only.");
}
