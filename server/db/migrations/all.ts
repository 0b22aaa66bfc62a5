import type { Knex } from "knex";
import * as foundations from "./0001-foundations.ts";
import * as library from "./0002-library.ts";
import * as learning from "./0004-learning.ts";
import * as alarmEntries from "./0005-alarm-entries.ts";
import * as pressureAlarms from "./0006-pressure-alarms.ts";
import * as drills from "./0008-drills.ts";
import * as fieldGateway from "./0007-field-gateway.ts";
import * as profiles from "./0003-profiles.ts";

/** In order of name; forward only. */
export const migrations: Record<string, Knex.Migration> = {
  "0001-foundations": foundations,
  "0002-library": library,
  "0003-profiles": profiles,
  "0004-learning": learning,
  "0005-alarm-entries": alarmEntries,
  "0006-pressure-alarms": pressureAlarms,
  "0007-field-gateway": fieldGateway,
  "0008-drills": drills,
};
