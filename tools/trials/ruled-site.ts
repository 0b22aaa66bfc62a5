import { randomUUID } from "node:crypto";
import { readFileSync } from "node:fs";
import { join } from "node:path";
import type { Order } from "../../core/field/orders.ts";
import { checksum } from "../../core/settings/checksum.ts";
import type { SiteFile } from "../../core/site-file/schema.ts";
import type { Kept } from "../../gateway/controllers.ts";
import { Journal } from "../../gateway/journal.ts";
import { db } from "../../server/db/connection.ts";

type Ask = (method: string, path: string, body?: unknown) => Promise<{ status: number; json: unknown }>;
type Event = { kind: string; type: string; subject: string; at: string; order?: string };
/** Minutes of a run, and how long after it a valve may stand open at the most, s of the site. */
const RUN_MIN = 1;
const LONGEST_S = 30 * 60;
const BACK_MS = 120_000;
const sleep = (ms: number): Promise<void> => new Promise((r) => setTimeout(r, ms));

/** A site whose controllers are sent settings and given orders while everything is killed; in the end both sides' books are laid beside each other. */
export class RuledSite {
  private readonly siteId: string;
  private readonly ask: Ask;
  private readonly random: () => number;
  private readonly orders: { id: string; kind: Order["kind"] }[] = [];
  private minutes = 1;

  constructor(siteId: string, ask: Ask, random: () => number) {
    this.siteId = siteId;
    this.ask = ask;
    this.random = random;
  }

  async command(working: () => boolean): Promise<void> {
    while (working()) {
      const lot = this.random();
      if (lot < 0.4) await this.send();
      else await this.order(this.some(lot));
      await sleep(300);
    }
  }

  private some(lot: number): Order {
    if (lot < 0.58) return { kind: "run", runs: [{ stationId: lot < 0.5 ? "s1" : "s3", minutes: RUN_MIN }] };
    if (lot < 0.75) return { kind: "learn", stationIds: ["s2", "s3"] };
    if (lot < 0.85) return { kind: "stop" };
    return lot < 0.93 ? { kind: "skip" } : { kind: "walk", controllerId: "ctl", minutes: 1 };
  }

  private async send(): Promise<void> {
    const path = `/api/sites/${this.siteId}`;
    const now = (await this.ask("GET", `${path}/revisions`)).json as { version: number; file: SiteFile };
    const minutes = ++this.minutes % 600;
    const programs = now.file.programs.map((p) => ({ ...p, runs: p.runs.map((r) => ({ ...r, minutes })) }));
    const saved = await this.ask("POST", `${path}/revisions`, {
      baseVersion: now.version,
      file: { ...now.file, programs },
      note: "",
    });
    const { version } = saved.json as { version?: number };
    if (version) await this.ask("POST", `${path}/controllers`, { version, controllerIds: ["ctl"] });
  }

  private async order(what: Order): Promise<void> {
    const id = randomUUID();
    const path = `/api/sites/${this.siteId}`;
    const { status } =
      what.kind === "learn"
        ? await this.ask("POST", `${path}/learning/there`, { id, stationIds: what.stationIds })
        : await this.ask("POST", `${path}/orders`, { id, what });
    if (status === 200) this.orders.push({ id, kind: what.kind });
  }

  /** Waits until every order and every send has its answer. @returns what has none */
  async answered(): Promise<string[]> {
    for (const end = Date.now() + BACK_MS; ; await sleep(500)) {
      const open = await db()("controller_order").where({ siteId: this.siteId, state: "waiting" }).pluck("what");
      const sends = await db()("controller_send")
        .where({ siteId: this.siteId })
        .whereIn("state", ["waiting", "sent"])
        .pluck("number");
      if (open.length + sends.length === 0) return [];
      if (Date.now() > end)
        return [
          `${open.length} orders and ${sends.length} sends were never answered: ${JSON.stringify(open.slice(0, 3))}`,
        ];
    }
  }

  /** Lays the books of both sides beside each other, once the gateway has ended. */
  async wrong(folder: string): Promise<string[]> {
    const wrong: string[] = [];
    const journal = new Journal(join(folder, "journal"));
    const lines = journal.lines(journal.first, journal.lastSeq).map((l) => JSON.parse(l) as Event);
    const events = lines.filter((l) => l.kind === "event");
    for (const { id, kind } of this.orders) {
      const row = await db()("controller_order").where({ id }).first("state", "reason");
      const told = events.filter((e) => e.order === id && e.type === (kind === "learn" ? "learnBegins" : "ordered"));
      if (!row) wrong.push(`an order that was accepted is not kept: ${kind}`);
      else if (told.length > 1) wrong.push(`${kind} was done ${told.length} times`);
      else if (row.state !== "done" && told.length > 0) wrong.push(`${kind} is ${row.state} and was done`);
      else if (row.state === "done" && told.length === 0 && kind !== "learn") wrong.push(`${kind} is done and was not`);
    }
    wrong.push(...(await this.halfHeld(folder)), ...openEnded(events, lines.at(-1)?.at));
    const begun = events.filter((e) => e.type === "learnBegins").length;
    const ended = events.filter((e) => e.type === "learnEnds").length;
    if (begun - ended > 1) wrong.push(`${begun} learnings began and ${ended} ended`);
    for (const { order } of events.filter((e) => e.type === "learnEnds" && e.order)) {
      const run = await db()("learning_run").where({ orderId: order }).first("state");
      if (run?.state === "queued" || run?.state === "running")
        wrong.push(`a learning that ended is still ${run.state}`);
    }
    return wrong;
  }

  /** What a controller holds is one send as it was sent, or what it held at first. */
  private async halfHeld(folder: string): Promise<string[]> {
    const kept = JSON.parse(readFileSync(join(folder, "controllers.json"), "utf8")) as Kept;
    const wrong: string[] = [];
    for (const held of kept.work.held) {
      if (held.number === 0) continue;
      const sent = await db()("controller_send")
        .where({ siteId: this.siteId, number: held.number })
        .first("checksum", "state");
      if (sent?.checksum !== checksum(held.settings))
        wrong.push(`send ${held.number} is held otherwise than it was sent`);
      if (sent && sent.state !== "taken") wrong.push(`send ${held.number} is held and said to be ${sent.state}`);
    }
    return wrong;
  }

  get words(): string {
    return `${this.orders.length} orders each done once or not at all, ${this.minutes - 1} sends whole or not at all`;
  }
}

/** Every valve that opened has shut in time, as far as was lived. */
function openEnded(events: readonly Event[], last: string | undefined): string[] {
  const wrong: string[] = [];
  const lived = Date.parse(last ?? "");
  for (const [i, e] of events.entries()) {
    if (e.type !== "open") continue;
    const shut = events.slice(i + 1).find((x) => x.type === "close" && x.subject === e.subject);
    const until = shut ? Date.parse(shut.at) : lived;
    if (until - Date.parse(e.at) > LONGEST_S * 1000)
      wrong.push(`${e.subject} stood open for ${(until - Date.parse(e.at)) / 60_000} min`);
  }
  return wrong;
}
