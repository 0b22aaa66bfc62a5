import { randomUUID } from "node:crypto";
import { rmSync } from "node:fs";
import { createServer, type AddressInfo } from "node:net";
import { join } from "node:path";
import { Aedes } from "aedes";
import {
  askMessage,
  playMessage,
  PROTOCOL,
  type PlayMessage,
  readJson,
  type StateMessage,
  topicOf,
} from "../core/field/messages.ts";
import { parseSiteText } from "../core/site-file/parse-site.ts";
import type { SiteFile } from "../core/site-file/schema.ts";
import { Journal, readNote, writeNote } from "./journal.ts";
import { SitePlayer } from "./site-player.ts";

export type GatewayOptions = {
  site: SiteFile;
  /** Where the journal lies. */
  folder: string;
  /** On loopback; 0 takes a free one. @default 0 */
  port?: number;
  /** Epoch seconds to begin at; without it, where the journal ended, else now. */
  from?: number | undefined;
  /** Seconds of the site in one. Never runs ahead of the clock. @default 1 */
  pace?: number | undefined;
  faults?: unknown[] | undefined;
  /** @default 1 */
  seed?: number | undefined;
  say?: (words: string) => void;
};
export type Gateway = { port: number; topic: string; journal: () => Journal; stop: () => Promise<void> };
type Note = {
  stream: string;
  seed: number;
  pace: number;
  faults: unknown[] /** The date on which the faults begin. */;
  faultsOn?: string | undefined;
  begun: number;
};

const TICK_MS = 50;
/** Seconds of the site lived in one tick at most, and lines sent again in one tick. */
const MOST_SECONDS = 400;
const MOST_AGAIN = 1000;

/**
 * The simulated field gateway: a broker on loopback, a site lived on the bench, and a journal of everything said, from which whoever missed something is sent it again
 * (docs/field-gateway.md).
 */
export async function startGateway(options: GatewayOptions): Promise<Gateway> {
  const say = options.say ?? ((): void => {});
  const key = options.site.site.id;
  let { site } = options;
  let note = readNote<Note>(options.folder, "stream.json");
  const newStream = (begun: number, pace: number, faults: unknown[]): Note => {
    rmSync(join(options.folder, "journal"), { recursive: true, force: true });
    return { stream: randomUUID(), seed: options.seed ?? 1, pace, faults, begun };
  };
  const realNow = (): number => Math.floor(Date.now() / 1000);
  if (!note || options.from !== undefined)
    note = newStream(options.from ?? realNow(), options.pace ?? 1, options.faults ?? []);
  else
    note = {
      ...note,
      pace: options.pace ?? note.pace,
      ...(options.faults ? { faults: options.faults, faultsOn: undefined } : {}),
    };
  let journal = new Journal(join(options.folder, "journal"));
  const lastAt = (): number => {
    const line = journal.lastLine;
    return line === null ? (note as Note).begun : Date.parse((JSON.parse(line) as { at: string }).at) / 1000;
  };
  let player = new SitePlayer(site, lastAt(), note.faults, note.seed, note.faultsOn);
  note = { ...note, faultsOn: note.faultsOn ?? player.today };
  writeNote(options.folder, "stream.json", note);

  const broker = await Aedes.createBroker();
  const server = createServer(broker.handle);
  await new Promise<void>((resolve, reject) => {
    server.once("error", reject);
    server.listen(options.port ?? 0, "127.0.0.1", resolve);
  });
  const publish = (topic: string, payload: string, retain = false): void =>
    broker.publish({ cmd: "publish", topic, payload, qos: 1, dup: false, retain }, () => {});
  const tellState = (online: boolean): void => {
    const n = note as Note;
    const state: StateMessage = {
      stream: n.stream,
      first: journal.first,
      last: journal.lastSeq,
      online,
      simulated: true,
      isolates: true,
      pace: n.pace,
      faults: n.faults,
    };
    publish(topicOf(key, "state"), JSON.stringify(state), true);
  };

  let anchor = { wall: Date.now(), at: player.now };
  const reAnchor = (): void => {
    anchor = { wall: Date.now(), at: player.now };
  };
  const again: { from: number; to: number; stream: string }[] = [];
  const live = (): void => {
    const n = note as Note;
    const target = Math.min(realNow(), anchor.at + Math.floor(((Date.now() - anchor.wall) / 1000) * n.pace));
    const lines: string[] = [];
    for (let k = 0; player.now < target && k < MOST_SECONDS; k++)
      for (const said of player.second())
        lines.push(JSON.stringify({ stream: n.stream, seq: journal.lastSeq + lines.length + 1, ...said }));
    if (lines.length === 0) return;
    journal.append(lines);
    for (const line of lines) publish(topicOf(key, "data"), line);
  };
  const sendAgain = (): void => {
    const asked = again[0];
    if (!asked) return;
    if (asked.stream !== note?.stream) {
      again.shift();
      return;
    }
    if (asked.from < journal.first) {
      publish(
        topicOf(key, "data"),
        JSON.stringify({
          stream: asked.stream,
          kind: "lost",
          from: asked.from,
          to: Math.min(asked.to, journal.first - 1),
        }),
      );
      asked.from = Math.min(asked.to + 1, journal.first);
    }
    const to = Math.min(asked.to, journal.lastSeq, asked.from + MOST_AGAIN - 1);
    for (const line of asked.from <= to ? journal.lines(asked.from, to) : []) publish(topicOf(key, "data"), line);
    asked.from = to + 1;
    if (asked.from > asked.to || to >= journal.lastSeq) again.shift();
  };
  const play = (asked: PlayMessage): void => {
    const before = note as Note;
    try {
      if (asked.from !== undefined) {
        const from = Math.min(realNow(), Math.floor(Date.parse(asked.from) / 1000));
        const fresh = new SitePlayer(site, from, asked.faults ?? [], before.seed);
        note = { ...newStream(from, asked.pace ?? before.pace, asked.faults ?? []), faultsOn: fresh.today };
        journal = new Journal(join(options.folder, "journal"));
        player = fresh;
      } else {
        if (asked.faults) player.change(site, asked.faults);
        note = {
          ...before,
          pace: asked.pace ?? before.pace,
          ...(asked.faults ? { faults: player.wrong, faultsOn: player.today } : {}),
        };
      }
    } catch (error) {
      say(`Not played: ${error instanceof Error ? error.message : error}`);
      return;
    }
    writeNote(options.folder, "stream.json", note);
    reAnchor();
    tellState(true);
  };
  broker.on("publish", (packet, client) => {
    if (client === null) return;
    const text = packet.payload.toString();
    switch (packet.topic) {
      case topicOf(key, "ask"): {
        const asked = readJson(askMessage, text);
        if (asked && again.length < 20) again.push({ ...asked });
        return;
      }
      case topicOf(key, "play"): {
        const asked = readJson(playMessage, text);
        if (asked) play(asked);
        else say("A play message that does not read was passed over.");
        return;
      }
      case topicOf(key, "site"): {
        const parsed = parseSiteText(text);
        if (!parsed.ok || parsed.site.site.id !== key || JSON.stringify(parsed.site) === JSON.stringify(site)) return;
        try {
          player.change(parsed.site, player.wrong);
          site = parsed.site;
          reAnchor();
          say("Settings taken from Presa.");
        } catch (error) {
          say(`Settings not taken: ${error instanceof Error ? error.message : error}`);
        }
        return;
      }
    }
  });
  tellState(true);
  let ticks = 0;
  const timer = setInterval(() => {
    live();
    sendAgain();
    if (++ticks % 20 === 0) tellState(true);
  }, TICK_MS);
  return {
    port: (server.address() as AddressInfo).port,
    topic: `${PROTOCOL}/${key}`,
    journal: () => journal,
    stop: async () => {
      clearInterval(timer);
      tellState(false);
      await new Promise<void>((resolve) => broker.close(() => resolve()));
      await new Promise<void>((resolve) => server.close(() => resolve()));
    },
  };
}
