import type { Knex } from "knex";
import * as foundations from "./0001-foundations.ts";
import * as library from "./0002-library.ts";

/** In order of name; forward only. */
export const migrations: Record<string, Knex.Migration> = {
  "0001-foundations": foundations,
  "0002-library": library,
};
