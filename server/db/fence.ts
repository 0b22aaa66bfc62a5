import knex, { type Knex } from "knex";
import type pg from "pg";
import { type Reach, reachNow } from "./reach.ts";

type Connection = pg.Client & { presaReach?: string };
type Query = { sql?: string };
type Dialect = { _query(connection: Connection, query: Query): Promise<unknown> };

const named = (reach: Reach): string =>
  typeof reach === "string" ? reach : `${reach.organisationId} ${reach.personId ?? "all"}`;
/** Ends of transactions run as they are: in one that has failed nothing else may be asked. */
const ENDS = /^\s*(commit|rollback|release)/i;

/**
 * PostgreSQL's client for Knex, which puts every query behind the fence of row-level security: before a query the connection takes on what the caller may
 * reach, if it has not already.
 */
export function fencedClient(): typeof Knex.Client {
  const Postgres = knex({ client: "pg" }).client.constructor as new (...args: never[]) => Dialect;
  class Fenced extends Postgres {
    override async _query(connection: Connection, query: Query): Promise<unknown> {
      const end = ENDS.test(query.sql ?? "");
      try {
        if (!end) await take(connection, reachNow());
        return await super._query(connection, query);
      } catch (error) {
        delete connection.presaReach;
        throw error;
      } finally {
        // What a transaction set goes with it when it is rolled back.
        if (end) delete connection.presaReach;
      }
    }
  }
  return Fenced as unknown as typeof Knex.Client;
}

async function take(connection: Connection, reach: Reach): Promise<void> {
  // Behind the fence already, as whoever asked last.
  if (reach === "anyone" && connection.presaReach !== undefined && connection.presaReach !== "operator") return;
  const name = named(reach === "anyone" ? "nothing" : reach);
  if (connection.presaReach === name) return;
  if (reach === "operator") await connection.query("reset role; reset presa.organisation; reset presa.person");
  else
    await connection.query(
      "select set_config('role', 'presa_app', false), set_config('presa.organisation', $1, false), set_config('presa.person', $2, false)",
      typeof reach === "string" ? ["", ""] : [reach.organisationId, reach.personId ?? ""],
    );
  connection.presaReach = name;
}
