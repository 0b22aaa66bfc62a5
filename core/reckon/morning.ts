import { nth } from "../checked.ts";
import { candidatesOf, changesIn, type Candidate, type Found } from "./changes.ts";
import type { Model, NightSays } from "./model.ts";
import { type Change, weightOf, Window } from "./window.ts";

/** So much of a change may be left, of its size or of its uncertainty, and it is over. */
const LEFT_SHARE = 0.15;
const LEFT_SD = 3;

/** From one change to the next of one thing: how much it differs meanwhile from what it was before the nights. */
export type Episode = {
  candidate: Candidate;
  among: Candidate[];
  certain: boolean;
  drift: boolean;
  /** Nights of the window; until is the first that is without it, null: it goes on. */
  from: number;
  /** Readings of its first night before it began. */
  onset: number;
  until: number | null;
  size: number;
  sd: number;
  z: number;
  /** Of each night of the window, how much it differs; nothing once it has ended. */
  byNight: Float64Array;
};
/** How much an episode differs in a reading of a night: nothing before it began. */
export const sizeAt = ({ from, onset, byNight }: Episode, night: number, reading: number): number =>
  night === from && reading < onset ? 0 : nth(byNight, night);

/** What the nights of a window say on the morning after the last of them. */
export type Morning = { window: Window; found: Found[]; episodes: Episode[] };

/**
 * One morning: what some nights together say has changed.
 *
 * @param events what is known to be different before some night of them: figures that were taken, repairs
 */
export function morningAfter(model: Model, nights: readonly NightSays[], events: readonly Change[]): Morning {
  const window = new Window({ mean: model.begin, variance: model.variance }, nights);
  const candidates = candidatesOf(
    model,
    nights.flatMap((n) => n.stretches),
  );
  const found = changesIn(model, window, candidates, events);
  const of = [...new Set(found.map((f) => f.candidate))];
  const episodes = of.flatMap((candidate) =>
    episodesOf(
      found.filter((f) => f.candidate === candidate),
      nights.length,
    ),
  );
  return { window, found, episodes: episodes.filter((e) => e.candidate.kind !== "main" || e.size > 0) };
}

/** The changes of one thing, in order of time: what grows on goes on, what turns back ends what was. */
function episodesOf(found: readonly Found[], nights: number): Episode[] {
  const episodes: Episode[] = [];
  for (const f of [...found].sort((a, b) => a.from - b.from)) {
    const open = episodes.at(-1);
    const parts = [...(open ? [open] : []), f];
    const size = (open?.size ?? 0) + f.size;
    const sd = Math.hypot(...parts.map((p) => p.sd));
    const byNight = Float64Array.from({ length: nights }, (_, i) => {
      const before = open ? nth(open.byNight, i) : 0;
      return before + f.size * weightOf(f, i, nights);
    });
    const surest = parts.reduce((a, b) => (Math.abs(b.z) > Math.abs(a.z) ? b : a));
    const { candidate, among } = f;
    const next = { candidate, size, sd, byNight, until: null };
    if (!open) {
      const drift = f.shape === "ramp";
      episodes.push({ ...next, among, from: f.from, onset: f.onset ?? 0, certain: f.certain, drift, z: Math.abs(f.z) });
      continue;
    }
    if (Math.sign(f.size) === Math.sign(open.size)) {
      const drift = open.drift || f.shape === "ramp";
      Object.assign(open, next, { drift, certain: surest.certain, among: surest.among, z: Math.abs(surest.z) });
      continue;
    }
    open.until = f.from;
    open.byNight = open.byNight.map((by, i) => (i < f.from ? by : 0));
    const left = Math.abs(size);
    if (left < LEFT_SD * sd || left < LEFT_SHARE * Math.abs(open.size)) continue;
    episodes.push({
      ...next,
      among,
      from: f.from,
      onset: f.onset ?? 0,
      certain: f.certain,
      drift: false,
      z: left / sd,
    });
  }
  return episodes;
}
