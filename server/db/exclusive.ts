import pg from "pg";
import { databaseUrl } from "./connection.ts";

/**
 * Things that only one process may do at a time, by name: locks of the database on a connection of their own, which fall with whoever holds them.
 *
 * @param area what the names belong to
 * @param onLost the connection broke and every lock with it: others may hold them now
 */
export class Exclusive {
  private client: pg.Client | null = null;
  private readonly area: string;
  private readonly onLost: () => void;

  constructor(area: string, onLost: () => void) {
    this.area = area;
    this.onLost = onLost;
  }

  /** True when this process holds the name from now on. */
  async take(name: string): Promise<boolean> {
    const client = await this.connected();
    const { rows } = await client.query("select pg_try_advisory_lock(hashtext($1), hashtext($2)) as mine", [
      this.area,
      name,
    ]);
    return rows[0]?.mine === true;
  }

  async leave(name: string): Promise<void> {
    await this.client
      ?.query("select pg_advisory_unlock(hashtext($1), hashtext($2))", [this.area, name])
      .catch(() => {});
  }

  async end(): Promise<void> {
    const { client } = this;
    this.client = null;
    await client?.end().catch(() => {});
  }

  private async connected(): Promise<pg.Client> {
    if (this.client) return this.client;
    const client = new pg.Client({ connectionString: databaseUrl() });
    client.on("error", () => {
      if (this.client !== client) return;
      this.client = null;
      this.onLost();
    });
    await client.connect();
    this.client = client;
    return client;
  }
}
