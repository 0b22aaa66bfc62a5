import type { Knex } from "knex";

/** What was read in each night, what each morning knew, and what people answered to it. */
export async function up(knex: Knex): Promise<void> {
  await knex.raw(`
    create table site_night (
      organisation_id uuid not null,
      site_id uuid not null,
      night date not null,
      source text not null check (source in ('gateway', 'log')),
      keys text[] not null,
      stretches jsonb not null,
      -- A night is from noon to noon; before it ends there may be more to read.
      whole boolean not null,
      read_at timestamptz not null default now(),
      primary key (site_id, night),
      foreign key (organisation_id, site_id) references site (organisation_id, id)
    );
    create table site_morning (
      organisation_id uuid not null,
      site_id uuid not null,
      night date not null,
      version integer not null,
      reckoning jsonb not null,
      words jsonb not null,
      -- What Rounds asks of every site at once: of what was found, no more than its line.
      said jsonb not null,
      worked_at timestamptz not null default now(),
      primary key (site_id, night),
      foreign key (organisation_id, site_id) references site (organisation_id, id)
    );
    create table finding_answer (
      organisation_id uuid not null,
      site_id uuid not null,
      finding_id text not null check (length(finding_id) between 1 and 300),
      answer text not null check (answer in ('visit', 'alone', 'taken', 'left')),
      words text not null default '' check (length(words) <= 2000),
      for_user uuid,
      -- What it was when it was answered: what grows is asked about again.
      change_lpm double precision not null,
      answered_by uuid not null,
      answered_at timestamptz not null default now(),
      primary key (site_id, finding_id),
      foreign key (organisation_id, site_id) references site (organisation_id, id),
      foreign key (organisation_id, answered_by) references app_user (organisation_id, id),
      foreign key (organisation_id, for_user) references app_user (organisation_id, id)
    );

    do $$ declare t text; begin
      foreach t in array array['site_night', 'site_morning', 'finding_answer'] loop
        execute format('alter table %I enable row level security', t);
        execute format('create policy own_organisation on %I using (organisation_id = presa_organisation())', t);
        execute format('grant select, insert, update, delete on %I to presa_app', t);
      end loop;
    end $$;

    -- The last night of a gateway that was looked at, and whether it was over.
    alter table field_gateway add column reckoned_night date, add column reckoned_whole boolean not null default false;
    alter table learning_run drop constraint learning_run_how_check,
      add constraint learning_run_how_check check (how in ('bench', 'readings', 'list', 'stopwatch', 'controller', 'nights'));
  `);
}

export async function down(): Promise<void> {
  throw new Error("Migrations run forward only.");
}
