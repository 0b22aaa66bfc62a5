import type { Knex } from "knex";

/** Water that no sensor sees is known by its meter alone, shared out over the days between two readings (handbook#14-season). */
export async function up(knex: Knex): Promise<void> {
  await knex.raw(`
    alter table sensor_day drop constraint sensor_day_source_check, drop constraint sensor_day_part_check,
      add constraint sensor_day_source_check check (source in ('gateway', 'log', 'meter')),
      add constraint sensor_day_part_check check (part in ('day', 'am', 'pm', 'meter'));
    alter table water_day drop constraint water_day_part_check, drop constraint water_day_cause_check,
      add constraint water_day_part_check check (part in ('day', 'am', 'pm', 'meter')),
      add constraint water_day_cause_check check (cause in ('scheduled', 'byHand', 'learning', 'handWatering', 'offSchedule', 'broken', 'metered'));
  `);
}

export async function down(): Promise<void> {
  throw new Error("Migrations run forward only.");
}
