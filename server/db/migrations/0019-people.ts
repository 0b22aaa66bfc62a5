import type { Knex } from "knex";

export async function up(knex: Knex): Promise<void> {
  await knex.raw(`
    -- Who has left stays as who did what they did; their address is free for others.
    alter table app_user
      add column left_at timestamptz,
      add column former_email text,
      add check ((left_at is null) = (former_email is null));

    -- What a person's list of sessions tells.
    alter table session
      add column seen_at timestamptz not null default now(),
      add column address text,
      add column agent text check (length(agent) <= 300);

    -- Links that work once: to join, or for somebody who is here already to choose another password. Only a digest of each is kept.
    create table invitation (
      id uuid primary key default gen_random_uuid(),
      organisation_id uuid not null references organisation,
      token_digest bytea not null unique check (length(token_digest) = 32),
      email text not null check (email = lower(email) and position('@' in email) > 1),
      role text check (role in ('manager', 'technician', 'viewer')),
      user_id uuid,
      made_by uuid not null,
      made_at timestamptz not null default now(),
      expires_at timestamptz not null,
      used_at timestamptz,
      withdrawn_at timestamptz,
      check ((role is null) = (user_id is not null) or used_at is not null),
      foreign key (organisation_id, made_by) references app_user (organisation_id, id),
      foreign key (organisation_id, user_id) references app_user (organisation_id, id)
    );
    create index invitation_open on invitation (organisation_id) where used_at is null and withdrawn_at is null;

    -- A second factor: the shared secret, sealed, and the last step that was used, so that no code counts twice.
    create table two_factor (
      organisation_id uuid not null,
      user_id uuid primary key,
      secret bytea not null,
      confirmed_at timestamptz,
      last_step bigint not null default 0,
      foreign key (organisation_id, user_id) references app_user (organisation_id, id)
    );
    create table recovery_code (
      organisation_id uuid not null,
      user_id uuid not null,
      digest bytea not null check (length(digest) = 32),
      used_at timestamptz,
      primary key (user_id, digest),
      foreign key (organisation_id, user_id) references app_user (organisation_id, id)
    );

    do $$ declare t text; begin
      foreach t in array array['invitation', 'two_factor', 'recovery_code'] loop
        execute format('alter table %I enable row level security', t);
        execute format('create policy own_organisation on %I using (organisation_id = presa_organisation())', t);
        -- Whoever signs in is not behind the fence yet: these are the operator's to look at.
        execute format('revoke all on %I from presa_app', t);
      end loop;
    end $$;
  `);
}

export async function down(): Promise<void> {
  throw new Error("Migrations run forward only.");
}
