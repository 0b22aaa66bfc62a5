import { z } from "zod";
import type { Held, Ordered } from "../core/at-controller/held.ts";
import {
  type DoMessage,
  type DoneMessage,
  doMessage,
  doneMessage,
  type HoldsMessage,
  MOST_SETTINGS_BYTES,
  OPENING,
  settingsMessage,
  type TakenMessage,
} from "../core/field/orders.ts";
import { readJson } from "../core/field/messages.ts";
import { checksum } from "../core/settings/checksum.ts";
import { takeSettings } from "../core/settings/take.ts";
import type { SiteFile } from "../core/site-file/schema.ts";
import { readNote, writeNote } from "./journal.ts";
import { type AtWork, setUpBy } from "./at-work.ts";
import type { SitePlayer } from "./site-player.ts";

/** What is kept of a site's controllers between restarts: what they hold, and what they have answered. */
export type Kept = {
  work: AtWork;
  taken: TakenMessage[];
  done: DoneMessage[];
  refused: Record<string, number>;
};
const NOTE = "controllers.json";
const MOST_TAKEN = 40;
const MOST_DONE = 1000;
const MOST_ORDER_BYTES = 600_000;
/** An order dated so far ahead is refused: whoever sent it has a wrong clock, or means harm. */
const AHEAD_MS = 600_000;

export const keptIn = (folder: string, site: SiteFile): Kept =>
  readNote<Kept>(folder, NOTE) ?? { work: setUpBy(site), taken: [], done: [], refused: {} };

export const keepIn = (folder: string, kept: Kept): void => writeNote(folder, NOTE, kept);

export type Says = { taken?: TakenMessage; done?: DoneMessage; holds?: HoldsMessage[] };

/**
 * What the controllers of a site answer to what Presa says. Whatever is done is on disk before it is answered: a settings message with a number that was answered before, or an
 * order whose id was, gets the same answer again and nothing is done.
 */
export class Controllers {
  private readonly folder: string;
  private readonly player: () => SitePlayer;
  private readonly kept: Kept;
  private readonly say: (words: string) => void;

  constructor(folder: string, kept: Kept, player: () => SitePlayer, say: (words: string) => void) {
    this.folder = folder;
    this.kept = kept;
    this.player = player;
    this.say = say;
  }

  /** How many messages were refused, by why. */
  get refused(): Record<string, number> {
    return this.kept.refused;
  }

  keep(): void {
    this.kept.work = this.player().work;
    keepIn(this.folder, this.kept);
  }

  holds(): HoldsMessage[] {
    const { held } = this.player().work;
    return held.map((h) => this.holdsOf(h));
  }

  private holdsOf(h: Held): HoldsMessage {
    const { lockouts } = this.player();
    const mine = new Set([...h.settings.stations, ...h.settings.mainlines, ...h.settings.pocs].map((x) => x.id));
    return {
      controllerId: h.controllerId,
      at: new Date().toISOString(),
      number: h.number,
      checksum: checksum(h.settings),
      settings: h.settings as unknown as Record<string, unknown>,
      byHandAt: h.byHandAt,
      clockOffS: h.clockOffS,
      lockouts: lockouts.filter((id) => mine.has(id)),
    };
  }

  private refuse(why: string, words: string): void {
    this.kept.refused[why] = (this.kept.refused[why] ?? 0) + 1;
    this.say(words);
    keepIn(this.folder, this.kept);
  }

  settings(payload: Buffer): Says {
    if (payload.length > MOST_SETTINGS_BYTES) {
      this.refuse("oversized", "Settings that are too long were passed over.");
      return {};
    }
    const asked = readJson(settingsMessage, payload.toString());
    if (!asked) {
      this.refuse("malformed", "Settings that do not read were passed over.");
      return {};
    }
    const before = this.kept.taken.find((t) => t.number === asked.number && t.controllerId === asked.controllerId);
    if (before) return { taken: before };
    const { held } = this.player().work;
    const mine = held.find((h) => h.controllerId === asked.controllerId);
    const answer = (rest: Pick<TakenMessage, "outcome" | "reason" | "items">): TakenMessage => {
      const taken: TakenMessage = {
        number: asked.number,
        controllerId: asked.controllerId,
        at: new Date().toISOString(),
        ...rest,
      };
      this.kept.taken = [...this.kept.taken.slice(1 - MOST_TAKEN), taken];
      this.keep();
      return taken;
    };
    if (!mine) return { taken: answer({ outcome: "refused", reason: "there is no such controller here", items: [] }) };
    if (asked.number <= mine.number) {
      this.refuse("late", `Settings ${asked.number} are older than what is held.`);
      return { taken: answer({ outcome: "refused", reason: "newer settings were taken since", items: [] }) };
    }
    const taken = takeSettings(mine.settings, asked.settings, asked.checksum, mine.profile);
    if (taken.outcome === "refused")
      return { taken: answer({ outcome: "refused", reason: taken.reason.slice(0, 500), items: [] }) };
    const next: Held = { ...mine, settings: taken.holds, number: asked.number, byHandAt: null };
    this.player().change({ held: held.map((h) => (h === mine ? next : h)) });
    return {
      taken: answer({ outcome: taken.outcome, items: taken.items }),
      holds: [this.holdsOf(next)],
    };
  }

  order(payload: Buffer): Says {
    if (payload.length > MOST_ORDER_BYTES) {
      this.refuse("oversized", "An order that is too long was passed over.");
      return {};
    }
    const text = payload.toString();
    const asked = readJson(doMessage, text);
    if (!asked) {
      const known = readJson(z.object({ id: doneMessage.shape.id }), text);
      this.refuse("malformed", "An order that does not read was passed over.");
      return known ? { done: this.answer(known.id, "refused", "it does not read as an order") } : {};
    }
    const before = this.kept.done.find((d) => d.id === asked.id);
    if (before) {
      this.kept.refused["replayed"] = (this.kept.refused["replayed"] ?? 0) + 1;
      return { done: before };
    }
    const now = Date.now();
    if (Date.parse(asked.at) > now + AHEAD_MS) {
      this.refuse("future", "An order dated ahead of the clock was refused.");
      return { done: this.answer(asked.id, "refused", "it is dated ahead of the clock here") };
    }
    if (Date.parse(asked.expires) < now) {
      this.refuse("late", "An order came after its time.");
      return { done: this.answer(asked.id, "expired", "it came after its time and was not done") };
    }
    const why = this.unknownSettings(asked);
    if (why) return { done: this.answer(asked.id, "refused", why) };
    return this.carryOut(asked);
  }

  /** A controller that holds other settings than Presa knows of opens nothing for it. */
  private unknownSettings({ what, knows = {} }: DoMessage): string | null {
    if (!OPENING.has(what.kind)) return null;
    const other = this.player().work.held.find((h) => knows[h.controllerId] !== checksum(h.settings));
    if (!other) return null;
    const name = other.settings.controllers[0]?.name ?? other.controllerId;
    return `${name} holds other settings than Presa knows of; read back first`;
  }

  private carryOut(asked: DoMessage): Says {
    const { what } = asked;
    const order: Omit<Ordered, "at"> = { id: asked.id, by: asked.by, what };
    let why: string | null;
    try {
      why = this.player().order(order);
    } catch (error) {
      why = error instanceof Error ? error.message : "it could not be done";
    }
    if (why !== null) return { done: this.answer(asked.id, "refused", why) };
    const milliamps = what.kind === "check" ? this.player().check(what.controllerId) : undefined;
    const done = this.answer(asked.id, "done", undefined, milliamps);
    const changes = ["read", "off", "resume", "clear", "lock", "clock"].includes(what.kind);
    return changes ? { done, holds: this.holds() } : { done };
  }

  private answer(
    id: string,
    outcome: DoneMessage["outcome"],
    reason?: string,
    milliamps?: Record<string, number>,
  ): DoneMessage {
    const done: DoneMessage = {
      id,
      at: new Date().toISOString(),
      outcome,
      ...(reason === undefined ? {} : { reason: reason.slice(0, 500) }),
      ...(milliamps ? { milliamps } : {}),
    };
    this.kept.done = [...this.kept.done.slice(1 - MOST_DONE), done];
    this.keep();
    return done;
  }

  /** Someone at the controller itself sets it otherwise; nobody asks Presa. */
  byHand(controllerId: string, change: (h: Held) => Held): HoldsMessage {
    const { held } = this.player().work;
    const mine = held.find((h) => h.controllerId === controllerId);
    if (!mine) throw new Error("There is no such controller here.");
    const next = { ...change(mine), byHandAt: new Date().toISOString() };
    this.player().change({ held: held.map((h) => (h === mine ? next : h)) });
    this.keep();
    return this.holdsOf(next);
  }

  /** Whatever runs ends: the power is gone. */
  stopped(): void {
    this.player().order({ id: crypto.randomUUID(), by: "a loss of power", what: { kind: "stop" } });
    this.keep();
  }

  /** Someone at the controller frees what is locked out. */
  clearByHand(id: string): HoldsMessage[] {
    const player = this.player();
    player.order({ id: crypto.randomUUID(), by: "someone at the controller", what: { kind: "clear", ids: [id] } });
    this.keep();
    return this.holds();
  }
}
