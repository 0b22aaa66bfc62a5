import type { Knex } from "knex";

/** Of each table: what it is called in the timeline, when it happened, what finds its row again, and under which other heads it is looked for. */
const KEPT: readonly (readonly [table: string, sort: string, at: string, ref: string, also: string])[] = [
  ["controller_send", "send", "asked_at", "id", "'{}'::text[]"],
  ["controller_order", "order", "asked_at", "id", orderAlso()],
  ["alarm", "alarm", "at", "id", "case when cardinality(r.locked) > 0 then array['lockout'] else '{}' end"],
  ["learning_run", "learning", "asked_at", "id", "'{}'::text[]"],
  ["visit", "visit", "begun_at", "id", "'{}'::text[]"],
  ["todo", "todo", "made_at", "id", "'{}'::text[]"],
  ["duty_done", "due", "made_at", "id", "'{}'::text[]"],
  ["meter_reading", "meter", "at", "id", "'{}'::text[]"],
  ["counter_reset", "counter", "at", "id", "'{}'::text[]"],
  ["valve_check", "wire", "at", "id", "'{}'::text[]"],
];

function orderAlso(): string {
  return `case when r.what ->> 'kind' in ('off', 'resume') then array['hold'] when r.what ->> 'kind' in ('lock', 'clear') then array['lockout'] else '{}' end`;
}
/** What a revision changed, as far as it is looked for by itself. */
const REVISION_ALSO = `array(select distinct case when c ->> 'path' ~ 'provings|checks' then 'proof' when c ->> 'path' ~ 'lockedOut' then 'lockout' else 'hold' end
  from jsonb_array_elements(case when jsonb_typeof(r.changes) = 'array' then r.changes else '[]' end) c where c ->> 'path' ~ '(provings|checks|lockedOut|holdUntil|[.]off$)')`;

export async function up(knex: Knex): Promise<void> {
  await knex.raw(`
    -- Where each thing that happened at a site is kept, by when it happened: so that a month of a site is found at once, whatever it is made of.
    create table happening (
      organisation_id uuid not null,
      site_id uuid not null,
      at timestamptz not null,
      sort text not null,
      ref text not null,
      also text[] not null default '{}',
      primary key (site_id, sort, ref),
      foreign key (organisation_id, site_id) references site (organisation_id, id)
    );
    create index happening_of_site on happening (site_id, at desc, sort, ref);
    alter table happening enable row level security;
    create policy own_organisation on happening using (organisation_id = presa_organisation());
    create policy own_sites on happening as restrictive using ((select presa_person()) is null
      or site_id in (select p.site_id from site_person p where p.user_id = (select presa_person())));
    grant select on happening to presa_app;

    -- A deed on an alarm belongs to the alarm's site.
    create function note_deed() returns trigger language plpgsql security definer set search_path = public as $f$
      begin
        insert into happening (organisation_id, site_id, at, sort, ref) select a.organisation_id, a.site_id, new.at, 'deed', new.id from alarm a where a.id = new.alarm_id;
        return null;
      end $f$;
    create trigger happening after insert on alarm_entry for each row execute function note_deed();
    create function unnote_deed() returns trigger language plpgsql security definer set search_path = public as $f$
      begin
        delete from happening h using alarm a where a.id = old.alarm_id and h.site_id = a.site_id and h.sort = 'deed' and h.ref = old.id::text;
        return null;
      end $f$;
    create trigger happening_gone after delete on alarm_entry for each row execute function unnote_deed();
    insert into happening (organisation_id, site_id, at, sort, ref)
      select a.organisation_id, a.site_id, e.at, 'deed', e.id from alarm_entry e join alarm a on a.id = e.alarm_id;

    create function note_revision() returns trigger language plpgsql security definer set search_path = public as $f$
      declare r revision;
      begin
        r := new;
        insert into happening (organisation_id, site_id, at, sort, ref, also) values (r.organisation_id, r.site_id, r.made_at, 'save', r.version, ${REVISION_ALSO});
        return null;
      end $f$;
    create trigger happening after insert on revision for each row execute function note_revision();
    insert into happening (organisation_id, site_id, at, sort, ref, also)
      select r.organisation_id, r.site_id, r.made_at, 'save', r.version, ${REVISION_ALSO} from revision r;
  `);
  for (const [table, sort, at, ref, also] of KEPT)
    await knex.raw(`
      create function note_${table}() returns trigger language plpgsql security definer set search_path = public as $f$
        declare r ${table};
        begin
          if tg_op = 'DELETE' then
            delete from happening where site_id = old.site_id and sort = '${sort}' and ref = old.${ref}::text;
            return null;
          end if;
          r := new;
          insert into happening (organisation_id, site_id, at, sort, ref, also) values (r.organisation_id, r.site_id, r.${at}, '${sort}', r.${ref}, ${also});
          return null;
        end $f$;
      create trigger happening after insert or delete on ${table} for each row execute function note_${table}();
      insert into happening (organisation_id, site_id, at, sort, ref, also) select r.organisation_id, r.site_id, r.${at}, '${sort}', r.${ref}, ${also} from ${table} r;
    `);
}

export async function down(): Promise<void> {
  throw new Error("Migrations run forward only.");
}
