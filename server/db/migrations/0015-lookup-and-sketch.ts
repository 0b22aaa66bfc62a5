import type { Knex } from "knex";

export async function up(knex: Knex): Promise<void> {
  await knex.raw(`
    -- Whose a session is, for requests themselves: without it each would take on the operator's rights for this one question. Whoever has the
    -- session's id, which nobody guesses, learns who it is; the table stays closed.
    create function user_of_session(wanted uuid) returns setof app_user language sql stable security definer set search_path = public as
      $f$ select u.* from session s join app_user u on u.id = s.user_id where s.id = wanted and s.ended_at is null $f$;
    revoke all on function user_of_session from public;
    grant execute on function user_of_session to presa_app;
    -- The night in small is kept in another form; each is worked out anew when it is asked for.
    delete from site_summary;
  `);
}

export async function down(): Promise<void> {
  throw new Error("Migrations run forward only.");
}
