import { randomUUID } from "node:crypto";
import { rmSync } from "node:fs";
import { join } from "node:path";
import { connectAsync, type MqttClient } from "mqtt";
import type { Held } from "../core/at-controller/held.ts";
import {
  askMessage,
  playMessage,
  type PlayMessage,
  readJson,
  type StateMessage,
  topicOf,
} from "../core/field/messages.ts";
import { orderTopic } from "../core/field/orders.ts";
import { parseSiteText } from "../core/site-file/parse-site.ts";
import type { SiteFile } from "../core/site-file/schema.ts";
import { doByHand } from "./by-hand.ts";
import { Controllers, type Kept, keepIn, keptIn, type Says } from "./controllers.ts";
import type { GatewayKey, GatewayOptions } from "./options.ts";
import { Journal, readNote, writeNote } from "./journal.ts";
import { type AtWork, setUpBy } from "./at-work.ts";
import { SitePlayer } from "./site-player.ts";

type Note = {
  stream: string;
  seed: number;
  pace: number;
  faults: unknown[];
  /** The date on which the faults begin. */
  faultsOn?: string | undefined;
  begun: number;
  /** The gateway says nothing and hears nothing, though its controllers go on. */
  silent?: boolean;
};

const TICK_MS = 50;
const END_MS = 1500;
/** Seconds of the site lived in one tick at most, and lines sent again in one tick. */
const MOST_SECONDS = 400;
const MOST_AGAIN = 1000;

/**
 * One site of the simulated gateway: its controllers lived on the bench and told to the broker, a journal of everything said, from which whoever missed something is sent it
 * again, and what the controllers hold (docs/field-gateway.md). While the broker is away it goes on living.
 */
export class SiteGateway {
  readonly siteId: string;
  private ground: SiteFile;
  private readonly key: GatewayKey;
  private readonly folder: string;
  private readonly say: (words: string) => void;
  private note: Note;
  private journalNow: Journal;
  private player: SitePlayer;
  private readonly controllers: Controllers;
  private readonly kept: Kept;
  private broker: MqttClient | null = null;
  private anchor: { wall: number; at: number };
  private again: { from: number; to: number; stream: string }[] = [];
  private timer: NodeJS.Timeout | undefined;
  private ticks = 0;

  constructor(options: GatewayOptions) {
    this.say = options.say ?? ((): void => {});
    this.key = options.key;
    this.folder = options.folder;
    this.siteId = options.site.site.id;
    const note = readNote<Note>(this.folder, "stream.json");
    const anew = !note || options.from !== undefined;
    if (anew && options.from !== undefined) rmSync(join(this.folder, "controllers.json"), { force: true });
    const fresh = readNote(this.folder, "controllers.json") === null;
    this.kept = keptIn(this.folder, options.site);
    this.ground = readNote<SiteFile>(this.folder, "ground.json") ?? options.site;
    if (anew) this.ground = options.site;
    this.note = anew
      ? this.newStream(options.from ?? realNow(), options.pace ?? 1, options.faults ?? [], options.seed)
      : {
          ...note,
          pace: options.pace ?? note.pace,
          ...(options.faults ? { faults: options.faults, faultsOn: undefined } : {}),
        };
    this.journalNow = new Journal(join(this.folder, "journal"));
    this.player = this.playerFrom(this.lastAt(), this.note.faults, this.note.faultsOn, this.kept.work);
    this.note.faultsOn ??= this.player.today;
    writeNote(this.folder, "stream.json", this.note);
    keepIn(this.folder, this.kept);
    this.controllers = new Controllers(this.folder, this.kept, () => this.player, this.say);
    if (fresh) for (const change of options.begin ?? []) doByHand(this, change);
    this.anchor = { wall: Date.now(), at: this.player.now };
  }

  get journal(): Journal {
    return this.journalNow;
  }

  get name(): string {
    return this.ground.site.name;
  }

  get account(): string {
    return this.key.account;
  }

  /** For the page at which someone stands before a controller. */
  get held(): {
    site: SiteFile;
    held: Held[];
    lockouts: string[];
    open: string[];
    silent: boolean;
    learns: boolean;
    now: number;
  } {
    return {
      site: this.ground,
      held: this.player.work.held,
      lockouts: this.player.lockouts,
      open: this.player.openStations,
      silent: this.note.silent === true,
      learns: this.player.learns,
      now: this.player.now,
    };
  }

  /** @throws where the broker does not take its account */
  async start(): Promise<void> {
    const broker = await connectAsync(this.key.broker, {
      username: this.account,
      password: this.key.password,
      clientId: `${this.account}-${randomUUID().slice(0, 8)}`,
      reconnectPeriod: 1000,
      connectTimeout: 5000,
      // What was not said because the broker was away is asked for by number.
      queueQoSZero: false,
      will: { topic: topicOf(this.account, "state"), payload: this.stateNow(false), qos: 1, retain: true },
    });
    this.broker = broker;
    broker.on("error", (error) => this.say(`The broker: ${error.message}`));
    broker.on("connect", () => void this.attend().catch((error: Error) => this.say(`The broker: ${error.message}`)));
    broker.on("message", (topic, payload) => this.hear(topic, payload));
    await this.attend();
    this.timer = setInterval(() => this.tick(), TICK_MS);
  }

  async stop(): Promise<void> {
    clearInterval(this.timer);
    this.tellState(false);
    // Where the broker goes at the same time its word is not waited for.
    const late = new Promise((done) => setTimeout(done, END_MS));
    await Promise.race([this.broker?.endAsync(), late]);
    await this.broker?.endAsync(true).catch(() => {});
  }

  /** Someone at the controller sets it otherwise. */
  setByHand(controllerId: string, change: (h: Held) => Held): void {
    this.answer({ holds: [this.controllers.byHand(controllerId, change)] });
  }

  /** Someone pulls the plug, or the net fails: what runs ends, and the clock stands meanwhile. */
  losePower(controllerId: string, minutes: number): void {
    this.controllers.stopped();
    this.setByHand(controllerId, (h) => ({ ...h, clockOffS: h.clockOffS - Math.round(minutes * 60) }));
  }

  clearByHand(id: string): void {
    this.answer({ holds: this.controllers.clearByHand(id) });
  }

  /** Goes silent, or speaks again. */
  setSilent(silent: boolean): void {
    if (silent) this.tellState(false);
    this.note = { ...this.note, silent };
    writeNote(this.folder, "stream.json", this.note);
    if (!silent) this.tellState(true);
  }

  private newStream(begun: number, pace: number, faults: unknown[], seed = 1): Note {
    rmSync(join(this.folder, "journal"), { recursive: true, force: true });
    return { stream: randomUUID(), seed, pace, faults, begun };
  }

  private playerFrom(from: number, faults: unknown[], faultsOn: string | undefined, work: AtWork): SitePlayer {
    return new SitePlayer(this.ground, from, faults, this.note.seed, faultsOn, work);
  }

  private lastAt(): number {
    const line = this.journalNow.lastLine;
    return line === null ? this.note.begun : Date.parse((JSON.parse(line) as { at: string }).at) / 1000;
  }

  private stateNow(online: boolean): string {
    const { stream, pace, faults } = this.note;
    const state: StateMessage = {
      stream,
      first: this.journalNow.first,
      last: this.journalNow.lastSeq,
      online,
      simulated: true,
      isolates: true,
      version: 2,
      refused: this.kept.refused,
      pace,
      faults,
    };
    return JSON.stringify(state);
  }

  private publish(topic: string, payload: string, retain = false): void {
    if (this.broker?.connected && !this.note.silent) this.broker.publish(topic, payload, { qos: 1, retain });
  }

  private tellState(online: boolean): void {
    this.publish(topicOf(this.account, "state"), this.stateNow(online), true);
  }

  private async attend(): Promise<void> {
    const { account } = this;
    await this.broker?.subscribeAsync(
      [
        ...(["ask", "play", "site"] as const).map((what) => topicOf(account, what)),
        orderTopic(account, "settings"),
        orderTopic(account, "do"),
      ],
      { qos: 1 },
    );
    this.tellState(true);
  }

  private answer({ taken, done, holds }: Says): void {
    for (const h of holds ?? []) this.publish(orderTopic(this.account, "holds"), JSON.stringify(h));
    if (taken) this.publish(orderTopic(this.account, "taken"), JSON.stringify(taken));
    if (done) this.publish(orderTopic(this.account, "done"), JSON.stringify(done));
  }

  private hear(topic: string, payload: Buffer): void {
    if (this.note.silent) return;
    const { account } = this;
    switch (topic) {
      case topicOf(account, "ask"): {
        const asked = readJson(askMessage, payload.toString());
        if (asked && this.again.length < 20) this.again.push({ ...asked });
        return;
      }
      case topicOf(account, "play"): {
        const asked = readJson(playMessage, payload.toString());
        if (asked) this.play(asked);
        else this.say("A play message that does not read was passed over.");
        return;
      }
      case topicOf(account, "site"):
        this.otherGround(payload.toString());
        return;
      case orderTopic(account, "settings"):
        this.answer(this.controllers.settings(payload));
        return;
      case orderTopic(account, "do"):
        this.answer(this.controllers.order(payload));
    }
  }

  /** The site as it stands in the ground; what its controllers hold is theirs. A controller that is new holds what the file says. */
  private otherGround(text: string): void {
    const parsed = parseSiteText(text);
    if (!parsed.ok || parsed.site.site.id !== this.siteId) return;
    if (JSON.stringify(parsed.site) === JSON.stringify(this.ground)) return;
    try {
      const known = this.player.work.held;
      const fresh = setUpBy(parsed.site).held;
      const held = fresh.map((h) => known.find((k) => k.controllerId === h.controllerId) ?? h);
      this.player.change({ ground: parsed.site, held });
      this.ground = parsed.site;
      writeNote(this.folder, "ground.json", this.ground);
      this.controllers.keep();
      this.reAnchor();
      this.say("The site in the ground is another now.");
    } catch (error) {
      this.say(`The site is not taken: ${error instanceof Error ? error.message : error}`);
    }
  }

  private play(asked: PlayMessage): void {
    const before = this.note;
    try {
      if (asked.from !== undefined) {
        const from = Math.min(realNow(), Math.floor(Date.parse(asked.from) / 1000));
        const work = { ...this.player.work, ordered: [], settled: null };
        const fresh = this.playerFrom(from, asked.faults ?? [], undefined, work);
        this.note = {
          ...this.newStream(from, asked.pace ?? before.pace, asked.faults ?? [], before.seed),
          faultsOn: fresh.today,
        };
        this.journalNow = new Journal(join(this.folder, "journal"));
        this.player = fresh;
      } else {
        if (asked.faults) this.player.change({ faults: asked.faults });
        this.note = {
          ...before,
          pace: asked.pace ?? before.pace,
          ...(asked.faults ? { faults: this.player.wrong, faultsOn: this.player.today } : {}),
        };
      }
    } catch (error) {
      this.say(`Not played: ${error instanceof Error ? error.message : error}`);
      return;
    }
    writeNote(this.folder, "stream.json", this.note);
    this.controllers.keep();
    this.reAnchor();
    this.tellState(true);
  }

  private reAnchor(): void {
    this.anchor = { wall: Date.now(), at: this.player.now };
  }

  private tick(): void {
    this.live();
    this.sendAgain();
    if (++this.ticks % 20 === 0) this.tellState(true);
  }

  private live(): void {
    const { anchor, note, player } = this;
    const target = Math.min(realNow(), anchor.at + Math.floor(((Date.now() - anchor.wall) / 1000) * note.pace));
    const lines: string[] = [];
    let turned = false;
    for (let k = 0; player.now < target && k < MOST_SECONDS; k++) {
      const { today } = player;
      for (const said of player.second())
        lines.push(JSON.stringify({ stream: note.stream, seq: this.journalNow.lastSeq + lines.length + 1, ...said }));
      turned ||= today !== player.today;
    }
    // What was ordered on the day before is over.
    if (turned) this.controllers.keep();
    if (lines.length === 0) return;
    this.journalNow.append(lines);
    for (const line of lines) this.publish(topicOf(this.account, "data"), line);
  }

  private sendAgain(): void {
    const asked = this.again[0];
    if (!asked) return;
    if (asked.stream !== this.note.stream) {
      this.again.shift();
      return;
    }
    const data = topicOf(this.account, "data");
    const { first, lastSeq } = this.journalNow;
    if (asked.from < first) {
      const lost = { stream: asked.stream, kind: "lost", from: asked.from, to: Math.min(asked.to, first - 1) };
      this.publish(data, JSON.stringify(lost));
      asked.from = Math.min(asked.to + 1, first);
    }
    const to = Math.min(asked.to, lastSeq, asked.from + MOST_AGAIN - 1);
    for (const line of asked.from <= to ? this.journalNow.lines(asked.from, to) : []) this.publish(data, line);
    asked.from = to + 1;
    if (asked.from > asked.to || to >= lastSeq) this.again.shift();
  }
}

const realNow = (): number => Math.floor(Date.now() / 1000);
