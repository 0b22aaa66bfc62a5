import pg from "pg";
import { databaseUrl } from "./connection.ts";
import { type Ask, oneAtATime } from "./one-at-a-time.ts";

type Held = { client: pg.Client; ask: Ask; ready: Promise<unknown> };

/**
 * Things that only one process may do at a time, by name: locks of the database on a connection of their own, which fall with whoever holds them.
 *
 * @param area what the names belong to
 * @param onLost the connection broke and every lock with it: others may hold them now
 */
export class Exclusive {
  private held: Held | null = null;
  private readonly area: string;
  private readonly onLost: () => void;

  constructor(area: string, onLost: () => void) {
    this.area = area;
    this.onLost = onLost;
  }

  /** True when this process holds the name from now on. */
  async take(name: string): Promise<boolean> {
    const { ask, ready } = this.connection();
    await ready;
    const { rows } = await ask("select pg_try_advisory_lock(hashtext($1), hashtext($2)) as mine", [this.area, name]);
    return rows[0]?.mine === true;
  }

  async leave(name: string): Promise<void> {
    await this.held?.ask("select pg_advisory_unlock(hashtext($1), hashtext($2))", [this.area, name]).catch(() => {});
  }

  async end(): Promise<void> {
    const { held } = this;
    this.held = null;
    await held?.client.end().catch(() => {});
  }

  private connection(): Held {
    if (this.held) return this.held;
    const client = new pg.Client({ connectionString: databaseUrl() });
    const lost = (): void => {
      if (this.held?.client !== client) return;
      this.held = null;
      this.onLost();
    };
    client.on("error", lost);
    const ready = client.connect();
    // One that never came about is tried anew by whoever asks next.
    ready.catch(() => {
      if (this.held?.client === client) this.held = null;
    });
    const held = { client, ready, ask: oneAtATime(client, ready) };
    this.held = held;
    return held;
  }
}
