import type { Knex } from "knex";

export async function up(knex: Knex): Promise<void> {
  await knex.raw(`
    -- Gateways speak through the operator's broker, each with an account of its own that nobody guesses. One that was set by its address
    -- before this is not heard until it is given an account.
    alter table field_gateway drop column url, drop column topic,
      add column account text not null unique default 'none-' || gen_random_uuid()
        check (length(account) between 16 and 100);
    alter table field_gateway alter column account drop default;
    update field_gateway set state = 'waiting', heard_at = null, says = null;

    -- Which recorder process listens to a gateway, and for how long it may without saying so again.
    create table recorder (id uuid primary key, seen_at timestamptz not null);
    alter table field_gateway add column leased_by uuid, add column leased_until timestamptz;
    revoke all on recorder from presa_app;
  `);
}

export async function down(): Promise<void> {
  throw new Error("Migrations run forward only.");
}
