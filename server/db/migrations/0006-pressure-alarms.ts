import type { Knex } from "knex";

export async function up(knex: Knex): Promise<void> {
  await knex.raw(`
    alter table alarm drop constraint alarm_kind_check;
    alter table alarm add constraint alarm_kind_check
      check (kind in ('stationHigh', 'stationLow', 'mainline', 'supply', 'burst', 'offSchedule', 'notFoundAgain', 'pumpNoFlow', 'sensor', 'pressureLow', 'pressureHigh'));
  `);
}

export async function down(): Promise<void> {
  throw new Error("Migrations run forward only.");
}
