import type { Knex } from "knex";

export async function up(knex: Knex): Promise<void> {
  await knex.raw(`
    -- A run is claimed by one worker, which shows that it lives; a run whose worker fell silent is taken up by another where it stopped.
    alter table learning_run
      add column how text not null default 'bench' check (how in ('bench', 'readings', 'list', 'stopwatch')),
      add column start_at timestamptz not null default now(),
      add column worker uuid,
      add column beat_at timestamptz,
      add column elapsed integer not null default 0 check (elapsed >= 0),
      add column waits jsonb not null default '[]',
      add column left_ids text[] not null default '{}',
      add column sets jsonb not null default '[]',
      add column meter jsonb;
    -- Whatever ran under an older worker is over: none of the new ones would take it up.
    update learning_run set state = 'failed', ended_at = now() where state in ('queued', 'running');
    create index learning_run_alive on learning_run (state) where state in ('queued', 'running');
    create unique index learning_run_one_a_site on learning_run (site_id) where state in ('queued', 'running');

    -- What was read, kept with the result; what stood before it was taken, so that taking can be undone.
    alter table learning_result
      add column companion_ids text[] not null default '{}',
      add column trace jsonb,
      add column before jsonb;
    create index learning_result_element on learning_result (site_id, element_id, learned_at desc);

    -- Every flow figure that a station ever had: by whom, when, how. Only added to.
    create table flow_figure (
      organisation_id uuid not null,
      site_id uuid not null,
      element_id text not null,
      version integer not null,
      at timestamptz not null default now(),
      made_by uuid not null,
      figure text not null check (figure in ('learned', 'entered', 'design')),
      how text,
      lpm double precision check (lpm >= 0),
      sd_lpm double precision check (sd_lpm >= 0),
      in_use boolean not null,
      primary key (site_id, element_id, version, figure),
      foreign key (site_id, element_id) references element (site_id, element_id),
      foreign key (organisation_id, made_by) references app_user (organisation_id, id)
    );

    -- The history begins with what every station has now.
    with station as (
      select r.organisation_id, r.site_id, r.version, r.made_at, r.made_by, x ->> 'id' as id, x -> 'learned' as learned, x ->> 'enteredFlowLpm' as entered, x ->> 'designFlowLpm' as design,
        case
          when x ->> 'expectedFrom' = 'learned' and x -> 'learned' is not null then 'learned'
          when x ->> 'expectedFrom' = 'entered' and x -> 'enteredFlowLpm' is not null then 'entered'
          when x ->> 'expectedFrom' = 'design' and x -> 'designFlowLpm' is not null then 'design'
          when x -> 'learned' is not null then 'learned' when x -> 'enteredFlowLpm' is not null then 'entered' else 'design'
        end as used
      from site s join revision r on r.site_id = s.id and r.version = s.version cross join lateral jsonb_array_elements(r.site_file -> 'stations') x
    )
    insert into flow_figure (organisation_id, site_id, element_id, version, at, made_by, figure, how, lpm, sd_lpm, in_use)
      select organisation_id, site_id, id, version, (learned ->> 'at')::timestamptz, made_by, 'learned', learned ->> 'how', (learned ->> 'meanLpm')::float8, (learned ->> 'sdLpm')::float8, used = 'learned' from station where learned is not null
      union all select organisation_id, site_id, id, version, made_at, made_by, 'entered', null, entered::float8, null, used = 'entered' from station where entered is not null
      union all select organisation_id, site_id, id, version, made_at, made_by, 'design', null, design::float8, null, used = 'design' from station where design is not null;
  `);
}

export async function down(): Promise<void> {
  throw new Error("Migrations run forward only.");
}
