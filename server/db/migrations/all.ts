import type { Knex } from "knex";
import * as foundations from "./0001-foundations.ts";

/** In order of name; forward only. */
export const migrations: Record<string, Knex.Migration> = {
  "0001-foundations": foundations,
};
