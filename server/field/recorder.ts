import { connect, type MqttClient } from "mqtt";
import { z } from "zod";
import { LiveJudge } from "../../core/field/live-judge.ts";
import {
  dataMessage,
  playMessage,
  readJson,
  type StateMessage,
  stateMessage,
  topicOf,
} from "../../core/field/messages.ts";
import { arrive, missing, type Ready, type Sequence, sequenceFrom } from "../../core/field/sequence.ts";
import { writeSiteText } from "../../core/site-file/parse-site.ts";
import { Exclusive } from "../db/exclusive.ts";
import { allGateways, beginStream, type GatewayRow, streamOf, updateGateway } from "../db/field.ts";
import { revisionAt } from "../db/revisions.ts";
import { siteById } from "../db/sites.ts";
import { log } from "../log.ts";
import { listen, tell } from "../db/listen.ts";
import { type Judged, takeIn } from "./take-in.ts";

const FLUSH_MS = 150;
const MOST_AT_ONCE = 2000;
const ASK_AGAIN_MS = 1500;
const ASK_MOST = 2000;
/** Nothing heard for so long: the gateway is silent. */
const SILENT_MS = 8000;

/**
 * Listens to one gateway and takes in what it says. Numbers that are missing are asked for again; how far the stream has come stands in the database, so that a
 * recorder that died, or another one, goes on where it ended.
 */
class Recorder {
  private readonly client: MqttClient;
  private sequence: Sequence | null = null;
  private queue: Ready[] = [];
  private says: StateMessage | null = null;
  private asked = { at: 0, next: 0 };
  private repeatsTold = 0;
  private heard = Date.now();
  private site: Judged | null = null;
  private publishedVersion = 0;
  private working: Promise<void> = Promise.resolve();
  private busy = false;
  private readonly timer: NodeJS.Timeout;
  private stateTold: GatewayRow["state"] = "waiting";
  readonly gateway: GatewayRow;

  constructor(gateway: GatewayRow) {
    this.gateway = gateway;
    this.client = connect(gateway.url, {
      clean: true,
      reconnectPeriod: 1000,
      connectTimeout: 5000,
      clientId: `presa-${gateway.siteId.slice(0, 8)}-${process.pid}`,
    });
    this.client.on("connect", () => {
      this.publishedVersion = 0;
      this.client.subscribe([topicOf(gateway.topic, "state"), topicOf(gateway.topic, "data")], { qos: 1 });
    });
    this.client.on("error", () => {
      if (!this.says) this.note("unreachable").catch(() => {});
    });
    this.client.on("message", (topic, payload) => this.hear(topic, payload.toString()));
    this.timer = setInterval(() => this.beat(), FLUSH_MS);
  }

  async stop(): Promise<void> {
    clearInterval(this.timer);
    await this.client.endAsync(true).catch(() => {});
    await this.working.catch(() => {});
  }

  /** Sends something to the gateway. */
  send(what: "play" | "site" | "ask", payload: string, retain = false): void {
    this.client.publish(topicOf(this.gateway.topic, what), payload, { qos: 1, retain });
  }

  private hear(topic: string, text: string): void {
    this.heard = Date.now();
    if (topic === topicOf(this.gateway.topic, "state")) {
      const state = readJson(stateMessage, text);
      if (state) this.says = state;
      return;
    }
    const message = readJson(dataMessage, text);
    if (!message || !this.sequence) return;
    const step = arrive(this.sequence, message);
    this.sequence = step.sequence;
    this.queue.push(...step.ready);
  }

  private beat(): void {
    if (this.busy) return;
    this.busy = true;
    this.working = this.work()
      .catch((error) => {
        log.error({ err: error, site: this.gateway.siteId }, "field recorder failed");
        // Whatever was not taken in is asked for again.
        this.sequence = null;
        this.queue = [];
      })
      .finally(() => {
        this.busy = false;
      });
  }

  private async work(): Promise<void> {
    const { says } = this;
    if (!says) return;
    const silent = Date.now() - this.heard > SILENT_MS || !says.online;
    const heard = silent ? "silent" : "live";
    await this.note(this.client.connected ? heard : "unreachable", says);
    if (!this.client.connected) return;
    await this.publishSite();
    if (this.sequence?.stream !== says.stream) await this.openStream(says);
    const { sequence } = this;
    if (!sequence) return;
    while (this.queue.length > 0) {
      const part = this.queue.splice(0, MOST_AT_ONCE);
      const repeats = sequence.repeats - this.repeatsTold;
      const done = await takeIn(
        this.gateway,
        sequence.stream,
        says.isolates,
        part,
        Math.max(0, repeats),
        await this.judged(),
      );
      this.repeatsTold = sequence.repeats;
      if (done.ok) continue;
      this.queue = [];
      this.sequence = done.applied === null ? null : sequenceFrom(sequence.stream, done.applied + 1);
      return;
    }
    this.askForMissing(says);
  }

  private async openStream(says: StateMessage): Promise<void> {
    const { siteId, organisationId } = this.gateway;
    await beginStream({ siteId, organisationId, stream: says.stream, firstSeq: says.first });
    const row = await streamOf(siteId, says.stream);
    this.queue = [];
    this.repeatsTold = 0;
    this.sequence = sequenceFrom(says.stream, (row?.appliedSeq ?? says.first - 1) + 1);
    this.asked = { at: 0, next: 0 };
  }

  private askForMissing(says: StateMessage): void {
    if (!this.sequence || says.stream !== this.sequence.stream) return;
    const hole = missing(this.sequence, says.last);
    if (!hole) return;
    const now = Date.now();
    // The same hole is asked for again only after a while; what has moved on, at once.
    if (hole.from < this.asked.next && now - this.asked.at < ASK_AGAIN_MS) return;
    const to = Math.min(hole.to, hole.from + ASK_MOST - 1);
    this.asked = { at: now, next: to + 1 };
    this.send("ask", JSON.stringify({ stream: this.sequence.stream, from: hole.from, to }));
  }

  private async judged(): Promise<Judged> {
    const row = await siteById(this.gateway.organisationId, this.gateway.siteId);
    if (!row) throw new Error("the site of a gateway is gone");
    if (this.site?.version !== row.version) {
      const revision = await revisionAt(row.id, row.version);
      if (!revision) throw new Error("the revision of a site is gone");
      this.site = { version: row.version, file: revision.siteFile, judge: new LiveJudge(revision.siteFile) };
    }
    return this.site as Judged;
  }

  /** Retained, so that a gateway that plays a site has its newest settings. */
  private async publishSite(): Promise<void> {
    const { version, file } = await this.judged();
    if (version === this.publishedVersion) return;
    this.publishedVersion = version;
    this.send("site", writeSiteText(file), true);
  }

  private async note(state: GatewayRow["state"], says?: StateMessage): Promise<void> {
    const words = `${state} ${JSON.stringify({ ...says, last: 0 })}`;
    if (state === this.stateTold && words === this.wordsTold && Date.now() - this.notedAt < 5000) return;
    [this.stateTold, this.wordsTold, this.notedAt] = [state, words, Date.now()];
    await updateGateway(this.gateway.siteId, {
      state,
      ...(says ? { says: JSON.stringify(says), heardAt: new Date(this.heard) } : {}),
    });
    await tell(`field_${this.gateway.siteId}`, { type: "state", state });
  }

  private wordsTold = "";
  private notedAt = 0;
}

/**
 * In a worker: records every gateway that no other worker records. A lock of the database says who does, and falls with whoever holds it.
 *
 * @returns stops recording
 */
export async function recordGateways(lookEveryMs = 1500): Promise<() => Promise<void>> {
  const recorders = new Map<string, Recorder>();
  let looking = false;
  let stopped = false;
  // The locks are gone with the connection: others may record now.
  const locks = new Exclusive("presa field", () => {
    for (const id of [...recorders.keys()]) void forget(id);
  });
  const forget = async (siteId: string): Promise<void> => {
    const recorder = recorders.get(siteId);
    recorders.delete(siteId);
    await recorder?.stop();
    await locks.leave(siteId);
  };
  const deaf = await listen("field_play", (payload) => {
    const asked = readJson(playOrder, payload);
    if (asked) recorders.get(asked.siteId)?.send("play", JSON.stringify(asked.play));
  });
  const look = async (): Promise<void> => {
    const wanted = new Map((await allGateways()).map((g) => [g.siteId, g]));
    for (const [id, r] of recorders) {
      const now = wanted.get(id);
      if (
        !now ||
        now.url !== r.gateway.url ||
        now.topic !== r.gateway.topic ||
        now.setAt.getTime() !== r.gateway.setAt.getTime()
      )
        await forget(id);
    }
    for (const [id, gateway] of wanted) {
      if (recorders.has(id) || stopped) continue;
      if (await locks.take(id)) recorders.set(id, new Recorder(gateway));
    }
  };
  const again = (): void => {
    if (looking || stopped) return;
    looking = true;
    look()
      .catch((error) => log.error({ err: error }, "looking for gateways failed"))
      .finally(() => {
        looking = false;
      });
  };
  const timer = setInterval(again, lookEveryMs);
  again();
  return async () => {
    stopped = true;
    clearInterval(timer);
    for (const id of [...recorders.keys()]) await forget(id);
    deaf();
    await locks.end();
  };
}

const playOrder = z.object({ siteId: z.string(), play: playMessage });
