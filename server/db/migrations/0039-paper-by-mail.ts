import type { Knex } from "knex";

export async function up(knex: Knex): Promise<void> {
  await knex.raw(`
    -- A sheet that somebody sends: theirs, to an address that they say, with the sheet until it is sent.
    alter table letter drop constraint letter_kind_check,
      add constraint letter_kind_check check (kind in ('alarms', 'escalated', 'overdue', 'morning', 'trial', 'paper')),
      add to_email text check (length(to_email) between 3 and 320),
      add attachment bytea check (octet_length(attachment) <= 16777216),
      add attachment_name text check (length(attachment_name) between 1 and 300),
      add constraint letter_of_paper check ((kind = 'paper') = (to_email is not null));
    alter table letter alter column attachment set storage external;
  `);
}

export async function down(): Promise<void> {
  throw new Error("Migrations run forward only.");
}
