import { nth } from "../checked.ts";
import { median } from "../learn/odd.ts";
import { expectedFlow } from "../site-file/expected-flow.ts";
import { alike, neverApart } from "./apart.ts";
import type { Model, Unknown } from "./model.ts";
import type { Stretch } from "./stretches.ts";
import type { Change, Judged, Onset, Shape, Window } from "./window.ts";

/** A change is named from here on (handbook#12-last-night). */
const NAMED_Z = 5;
/**
 * And only where it beats the next candidate by so much; or is a hundred times likelier than it: what tells them apart is the difference of the squares, half of which is the logarithm of how much likelier
 * one makes the readings than the other.
 */
const BEATS_BY = 2;
const BEATS_SQUARE_BY = 2 * Math.log(100);
/** A z differs by so much for its own noise. */
const ITS_OWN_NOISE = 1;
/** So many changes of one morning at the most. */
const MOST_FOUND = 8;
/** A drift needs so many nights to be one. */
const DRIFT_NIGHTS = 8;
/**
 * So many of the surest are tried in the middle of nights too. Something begins there at each of many readings, so that one that fits by chance is found easily: so much of the square of its z is taken off for
 * it. `named`: to be named itself; `rival`: to stand beside another as what it may be too. Where a reading jumps something did begin; where one opens anew it may have broken as the water came; that one breaks
 * just while others open or shut beside it is no likelier than any other minute.
 */
const REFINED = 12;
const MID_NIGHT_COST: Record<Onset["how"], { named: number; rival: number }> = {
  jump: { named: 6, rival: 6 },
  opening: { named: 18, rival: 6 },
  running: { named: 18, rival: 18 },
};
/** Less than so much of a station's flow is no change that anybody could look for, however surely it is read. */
const LEAST_OF_STATION = 0.02;
/** And of what a sensor reads: as a factor of its own, or as a leak of a main behind it, in the middle of its readings. */
const LEAST_OF_READING = 0.01;

/** Something that may have changed; several that cannot be told from each other are one. */
export type Candidate = {
  kind: Unknown["kind"];
  unknown: number;
  members: number[];
  /** A smaller one is none that anybody could look for: L/min, of a sensor a share. */
  least: number;
};
export type Found = Judged & {
  candidate: Candidate;
  /** It, and what else it may be. */
  among: Candidate[];
  certain: boolean;
};
/** `rivalZ`: as sure as it is taken for where something else would be named. */
type Explains = Judged & { candidate: Candidate; rivalZ: number };

/** Everything that may have changed behind these stretches. */
export function candidatesOf(model: Model, stretches: readonly Stretch[]): Candidate[] {
  const stations = neverApart(stretches).map((g): Candidate => {
    const flow = Math.max(...g.map((m) => nth(model.begin, m)));
    return { kind: "station", unknown: nth(g, 0), members: g, least: LEAST_OF_STATION * flow };
  });
  const columns = stretches.map((s) => model.response(s, 1));
  const others = model.unknowns.flatMap((u, i) => (u.kind === "main" || u.kind === "sensor" ? [i] : []));
  const seen = others.filter((i) => columns.some((c) => c.has(i)));
  const groups = alike(
    seen,
    (i) => `${nth(model.unknowns, i).kind} ${columns.map((c) => (c.has(i) ? 1 : 0)).join("")}`,
  );
  return [
    ...stations,
    ...groups.map((g): Candidate => {
      const unknown = nth(g, 0);
      const { kind } = nth(model.unknowns, unknown);
      const of = stretches.flatMap((s, i) => (columns[i]?.has(unknown) ? [s.meanLpm] : []));
      return { kind, unknown, members: g, least: LEAST_OF_READING * (kind === "main" ? median(of) : 1) };
    }),
  ];
}

/**
 * What these nights say has changed, the surest first; the same thing may change several times, as what breaks and is mended. Each is judged beside the others, held fixed, so
 * that two true changes do not hide each other.
 *
 * @param events what is known to be different before some night
 */
export function changesIn(
  model: Model,
  window: Window,
  candidates: readonly Candidate[],
  events: readonly Change[] = [],
): Found[] {
  const found: Explains[] = [];
  while (found.length < MOST_FOUND) {
    const [best] = ranked(model, window, candidates, [...events, ...found]);
    if (!best || Math.abs(best.z) < NAMED_Z) break;
    found.push(best);
  }
  return found.flatMap((f): Found[] => {
    const given = found.filter((o) => o !== f);
    const rivals = candidates.filter((c) => c === f.candidate || !found.some((o) => o.candidate === c));
    const again = ranked(model, window, rivals, [...events, ...given]);
    const own = again.find((r) => r.candidate === f.candidate);
    if (!own || Math.abs(own.z) < NAMED_Z) return [];
    const near = again.filter((r) => r.candidate !== f.candidate && !beats(own.z, r.rivalZ));
    const certain = near.length === 0 && hasFigures(model, f.candidate);
    return [{ ...own, among: [f.candidate, ...near.map((r) => r.candidate)], certain }];
  });
}

/** The z with which a change beats one that explains `alike` of it, 0 nothing to 1 all, five times of six in spite of its own noise. */
export function beatingZ(alike: number): number {
  return Math.min(BEATS_BY / (1 - alike), Math.sqrt(BEATS_SQUARE_BY / (1 - alike ** 2))) + ITS_OWN_NOISE;
}

/** The z that names a change beside one that explains `alike` of it, as often. */
export function neededZ(alike: number): number {
  return Math.max(NAMED_Z + ITS_OWN_NOISE, beatingZ(alike));
}

function beats(z: number, next: number): boolean {
  return Math.abs(z) - Math.abs(next) >= BEATS_BY || z * z - next * next >= BEATS_SQUARE_BY;
}

/** The best change of each candidate, beside others, the surest first. */
function ranked(model: Model, window: Window, candidates: readonly Candidate[], given: readonly Change[]): Explains[] {
  const judge = window.beside(given);
  const all = shapes(window.length);
  const best = candidates.flatMap((candidate): Explains[] => {
    let surest: Judged | null = null;
    for (const j of judge(candidate.unknown, all))
      if (possible(model, candidate, j) && Math.abs(j.z) > Math.abs(surest?.z ?? 0)) surest = j;
    return surest ? [{ ...surest, candidate, rivalZ: surest.z }] : [];
  });
  return best
    .sort(surestFirst)
    .map((b, i) => (i < REFINED ? begunWithin(model, window, judge, b) : b))
    .sort(surestFirst);
}

const surestFirst = (a: Judged, b: Judged): number => Math.abs(b.z) - Math.abs(a.z);

/** The same change begun in the middle of its first night, or of the one before, where that explains the readings much better; its z with what is taken off for it. */
function begunWithin(model: Model, window: Window, judge: ReturnType<Window["beside"]>, whole: Explains): Explains {
  const { candidate, from, shape } = whole;
  if (shape !== "step") return whole;
  let surest = whole;
  let rivalZ = whole.z;
  for (const night of [from - 1, from].filter((n) => n >= 0)) {
    const onsets = window.onsets(candidate.unknown, night);
    const begun = judge(
      candidate.unknown,
      onsets.map(({ at }) => ({ from: night, shape, onset: at })),
    );
    for (const [i, j] of begun.entries()) {
      if (!possible(model, candidate, j)) continue;
      const cost = MID_NIGHT_COST[nth(onsets, i).how];
      const z = less(j.z, cost.named);
      if (Math.abs(z) > Math.abs(surest.z)) surest = { ...whole, ...j, z };
      const asRival = less(j.z, cost.rival);
      if (Math.abs(asRival) > Math.abs(rivalZ)) rivalZ = asRival;
    }
  }
  return { ...surest, rivalZ };
}

/** A z with something taken off its square. */
const less = (z: number, off: number): number => Math.sign(z) * Math.sqrt(Math.max(0, z * z - off));

function shapes(nights: number): Omit<Change, "unknown">[] {
  const of = (shape: Shape, last: number) => Array.from({ length: Math.max(0, last) }, (_, from) => ({ from, shape }));
  return [...of("step", nights), ...of("ramp", nights - DRIFT_NIGHTS + 1)];
}

/** No station gives less than nothing. A main's leak may end: what is impossible is a negative one at last, which is looked at where all changes of it are together. */
function possible(model: Model, { kind, members, least }: Candidate, { size, from }: Judged): boolean {
  if (Math.abs(size) < least) return false;
  if (kind === "main") return size > 0 || from > 0;
  return kind === "sensor" || size > -1.2 * Math.max(...members.map((m) => nth(model.begin, m)));
}

function hasFigures(model: Model, { members }: Candidate): boolean {
  return members.every((m) => hasFigure(model, m));
}

/** Whether what it was before is known well enough to say that it has changed: a design's figure of a station says little. */
export function hasFigure(model: Model, unknown: number): boolean {
  const u = nth(model.unknowns, unknown);
  if (u.kind !== "station") return true;
  const from = expectedFlow(nth(model.w.site.stations, u.place))?.from;
  return from === "learned" || from === "entered";
}
