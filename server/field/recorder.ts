import { randomUUID } from "node:crypto";
import { z } from "zod";
import { LiveJudge } from "../../core/field/live-judge.ts";
import { playMessage, readJson, type StateMessage, stateMessage } from "../../core/field/messages.ts";
import { readData, SANE_TIMES, type SaneTimes } from "../../core/field/data-in.ts";
import type { Answer } from "../../core/field/orders.ts";
import { arrive, missing, type Ready, type Sequence, sequenceFrom } from "../../core/field/sequence.ts";
import { withTaughtSets } from "../../core/judge/taught-sets.ts";
import type { SiteFile } from "../../core/site-file/schema.ts";
import { writeSiteText } from "../../core/site-file/parse-site.ts";
import { type Again, again } from "../again.ts";
import { insertOrder, neverRead } from "../db/controller-orders.ts";
import { beginStream, type GatewayRow, streamOf, updateGateway } from "../db/field.ts";
import { endLeases, LEASE_S, renewLeases } from "../db/leases.ts";
import { newestMorning } from "../db/mornings.ts";
import { revisionAt } from "../db/revisions.ts";
import { siteById } from "../db/sites.ts";
import { log } from "../log.ts";
import { listenToAll, tell } from "../db/listen.ts";
import { MOST_ANSWER_BYTES, takeAnswer } from "./answers.ts";
import { Broker, brokerUrl } from "./broker.ts";
import { type Addressee, Correspondence, FIELD_ORDERS } from "./correspondence.ts";
import { type Judged, takeIn } from "./take-in.ts";

const FLUSH_MS = 150;
const SAY_EVERY_MS = 1000;
const PUBLISH_EVERY_MS = 1000;
const MOST_AT_ONCE = 2000;
const TAUGHT_EVERY_MS = 600_000;
const ASK_AGAIN_MS = 1500;
const ASK_MOST = 2000;
/** A number asked for so often without an answer is set aside. */
const ASK_TIMES = 12;
const NOTHING_ASKED = { at: 0, next: 0, times: 0, from: 0 };
/** Nothing heard for so long: the gateway is silent. */
const SILENT_MS = 8000;
/** A message that is longer is no reading, and is not read. */
const MOST_BYTES = 65_536;
/** What waits to be taken in; more is passed over, and asked for when there is room. */
const MOST_QUEUED = 20_000;
/** Answers that wait to be taken in; what is passed over is asked for again. */
const MOST_ANSWERS = 200;

/** The operator may take older readings than usual (PRESA_READINGS_BACK_DAYS), as where a site's year is played again. */
function saneTimes(): SaneTimes {
  const days = Number(process.env["PRESA_READINGS_BACK_DAYS"]);
  return days > 0 ? { ...SANE_TIMES, backS: days * 86_400 } : SANE_TIMES;
}

/**
 * Listens to one gateway and takes in what it says. Numbers that are missing are asked for again; how far the stream has come stands in the database, so that a
 * recorder that died, or another one, goes on where it ended.
 */
class Recorder {
  private readonly broker: Broker;
  private readonly mine: () => boolean;
  private sequence: Sequence | null = null;
  private queue: Ready[] = [];
  private askedFirst = false;
  private answers: { what: Answer; text: string }[] = [];
  private says: StateMessage | null = null;
  private asked = NOTHING_ASKED;
  private repeatsTold = 0;
  private heard = Date.now();
  private site: Judged | null = null;
  /** The connection over which, and the version that the gateway was last told of. */
  private published = "";
  private publishNext = 0;
  private taughtNext = 0;
  private readonly beats: Again;
  private stateTold: GatewayRow["state"] = "waiting";
  readonly gateway: GatewayRow;

  /** @param mine that nobody else may listen to this gateway by now */
  constructor(gateway: GatewayRow, broker: Broker, mine: () => boolean) {
    this.gateway = gateway;
    this.broker = broker;
    this.mine = mine;
    broker.hear(gateway.account, (what, payload) => this.hear(what, payload));
    this.beats = again(FLUSH_MS, "field recorder", () => this.beat(), { site: gateway.siteId });
  }

  async stop(): Promise<void> {
    this.broker.leave(this.gateway.account);
    await this.beats.end();
  }

  /** Tells a simulated gateway what to play. */
  play(payload: string): void {
    this.broker.say(this.gateway.account, "play", payload);
  }

  /** Takes settings and orders, and is there now. */
  get addressee(): Addressee {
    const { siteId, account } = this.gateway;
    const ready = this.stateTold === "live" && (this.says?.version ?? 1) >= 2;
    return { siteId, account, ready };
  }

  private hear(what: "state" | "data" | Answer, payload: Buffer): void {
    this.heard = Date.now();
    if (what !== "state" && what !== "data") {
      if (payload.length <= MOST_ANSWER_BYTES && this.answers.length < MOST_ANSWERS)
        this.answers.push({ what, text: payload.toString() });
      return;
    }
    if (payload.length > MOST_BYTES || this.queue.length > MOST_QUEUED) return;
    const text = payload.toString();
    if (what === "state") {
      const state = readJson(stateMessage, text);
      if (state) this.says = state;
      return;
    }
    const message = readData(text, Date.now() / 1000, saneTimes());
    if (!message || !this.sequence) return;
    if (message.kind === "lost" && this.says) message.to = Math.min(message.to, this.says.last);
    const step = arrive(this.sequence, message);
    this.sequence = step.sequence;
    this.queue.push(...step.ready);
  }

  private async beat(): Promise<void> {
    if (!this.mine()) return;
    try {
      await this.work();
    } catch (error) {
      // Whatever was not taken in is asked for again.
      this.sequence = null;
      this.queue = [];
      throw error;
    }
  }

  private async work(): Promise<void> {
    const { says } = this;
    const { connected } = this.broker;
    if (!says) {
      if (!connected) await this.note("unreachable");
      return;
    }
    const silent = Date.now() - this.heard > SILENT_MS || !says.online;
    const heard = silent ? "silent" : "live";
    await this.note(connected ? heard : "unreachable", says);
    if (!connected) return;
    await this.publishSite();
    await this.askFirst(says);
    await this.takeAnswers();
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
    this.askForMissing(says, silent);
  }

  /** Controllers that never said what they hold are asked when they are first heard. */
  private async askFirst(says: StateMessage): Promise<void> {
    if (this.askedFirst || says.version < 2) return;
    const { siteId, organisationId } = this.gateway;
    if (await neverRead(siteId))
      await insertOrder({
        id: randomUUID(),
        organisationId,
        siteId,
        what: { kind: "read" },
        userId: null,
        expiresAt: new Date(Date.now() + 3_600_000),
      });
    this.askedFirst = true;
  }

  private async takeAnswers(): Promise<void> {
    for (let answer = this.answers[0]; answer; answer = this.answers[0]) {
      await takeAnswer(this.gateway, answer.what, answer.text);
      this.answers.shift();
    }
  }

  private async openStream(says: StateMessage): Promise<void> {
    const { siteId, organisationId } = this.gateway;
    await beginStream({ siteId, organisationId, stream: says.stream, firstSeq: says.first });
    const row = await streamOf(siteId, says.stream);
    this.queue = [];
    this.repeatsTold = 0;
    this.sequence = sequenceFrom(says.stream, (row?.appliedSeq ?? says.first - 1) + 1);
    this.asked = NOTHING_ASKED;
  }

  private askForMissing(says: StateMessage, silent: boolean): void {
    if (!this.sequence || says.stream !== this.sequence.stream) return;
    const hole = missing(this.sequence, says.last);
    if (!hole) return;
    const now = Date.now();
    // The same hole is asked for again only after a while; what has moved on, at once.
    if (hole.from < this.asked.next && now - this.asked.at < ASK_AGAIN_MS) return;
    const to = Math.min(hole.to, hole.from + ASK_MOST - 1);
    // One that is silent has not refused to answer.
    const times = silent || hole.from !== this.asked.from ? 1 : this.asked.times + 1;
    this.asked = { at: now, next: to + 1, times, from: hole.from };
    if (times > ASK_TIMES) {
      // It never comes in a form that bears its number: what follows must not wait for it.
      const gone = { stream: this.sequence.stream, seq: hole.from, kind: "refused", why: "unreadable" } as const;
      const step = arrive(this.sequence, gone);
      this.sequence = step.sequence;
      this.queue.push(...step.ready);
      return;
    }
    this.broker.say(this.gateway.account, "ask", JSON.stringify({ stream: this.sequence.stream, from: hole.from, to }));
  }

  private async judged(): Promise<Judged> {
    const row = await siteById(this.gateway.organisationId, this.gateway.siteId);
    if (!row) throw new Error("the site of a gateway is gone");
    if (this.site?.version !== row.version) {
      const revision = await revisionAt(row.id, row.version);
      if (!revision) throw new Error("the revision of a site is gone");
      this.site = { version: row.version, file: revision.siteFile, judge: await this.judgeOf(revision.siteFile) };
    } else if (performance.now() >= this.taughtNext) this.site.judge = await this.judgeOf(this.site.file);
    return this.site as Judged;
  }

  /** By the limits of a revision, and by what nights say of its sets; those are looked for every ten minutes. */
  private async judgeOf(file: SiteFile): Promise<LiveJudge> {
    this.taughtNext = performance.now() + TAUGHT_EVERY_MS;
    const morning = await newestMorning(this.gateway.siteId);
    return new LiveJudge(withTaughtSets(file, morning?.reckoning.sets ?? []));
  }

  /** Retained, so that a gateway that plays a site has its newest settings; looked for about once a second. */
  private async publishSite(): Promise<void> {
    if (performance.now() < this.publishNext) return;
    this.publishNext = performance.now() + PUBLISH_EVERY_MS;
    const { version, file } = await this.judged();
    const now = `${this.broker.connections} ${version}`;
    if (now === this.published) return;
    this.published = now;
    this.broker.say(this.gateway.account, "site", writeSiteText(file), true);
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
 * In a worker: records its share of the gateways, together with whatever other workers there are. A lease in the database says who listens to which; one that dies or
 * hangs loses its own within seconds.
 *
 * @returns stops recording
 */
export async function recordGateways(lookEveryMs = 1500): Promise<() => Promise<void>> {
  if (brokerUrl() === null) {
    log.warn("no broker is set (MQTT_URL): no gateway is listened to");
    return async () => {};
  }
  const id = randomUUID();
  const recorders = new Map<string, Recorder>();
  const broker = new Broker();
  let leasedUntil = 0;
  let stopped = false;
  const mine = (): boolean => performance.now() < leasedUntil;
  const forget = async (siteId: string): Promise<void> => {
    const recorder = recorders.get(siteId);
    recorders.delete(siteId);
    await recorder?.stop();
  };
  const look = async (): Promise<void> => {
    const asked = performance.now();
    const wanted = new Map((await renewLeases(id)).map((g) => [g.siteId, g]));
    leasedUntil = asked + LEASE_S * 1000;
    for (const [siteId, r] of recorders) {
      const now = wanted.get(siteId);
      if (now?.account !== r.gateway.account || now.setAt.getTime() !== r.gateway.setAt.getTime()) await forget(siteId);
    }
    for (const [siteId, gateway] of wanted)
      if (!recorders.has(siteId) && !stopped) recorders.set(siteId, new Recorder(gateway, broker, mine));
  };
  const correspondence = new Correspondence(broker);
  const speaking = again(SAY_EVERY_MS, "speaking to gateways", async () => {
    if (mine()) await correspondence.say([...recorders.values()].map((r) => r.addressee));
  });
  const looking = again(lookEveryMs, "looking for gateways", look);
  const play = (payload: string): void => {
    const asked = readJson(playOrder, payload);
    if (asked) recorders.get(asked.siteId)?.play(JSON.stringify(asked.play));
  };
  let deaf = (): void => {};
  const stop = async (): Promise<void> => {
    stopped = true;
    deaf();
    await speaking.end();
    await looking.end();
    for (const siteId of [...recorders.keys()]) await forget(siteId);
    await endLeases(id).catch(() => {});
    await broker.end();
  };
  deaf = await listenToAll([
    ["field_play", play],
    [FIELD_ORDERS, () => speaking.now()],
  ]).catch(async (error) => {
    await stop();
    throw error;
  });
  return stop;
}

const playOrder = z.object({ siteId: z.string(), play: playMessage });
