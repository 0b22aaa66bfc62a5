import { nth } from "../checked.ts";
import { expectedFlow } from "../site-file/expected-flow.ts";
import { alike, neverApart } from "./apart.ts";
import type { Model, Unknown } from "./model.ts";
import type { Stretch } from "./stretches.ts";
import type { Change, Judged, Window } from "./window.ts";

/** A change is named from here on (handbook#12-last-night). */
const NAMED_Z = 5;
/** And only where it beats the next candidate by so much; or, where both are large, as surely as a z of 5 beats one of 3: what tells them apart is the difference of the squares. */
const BEATS_BY = 2;
const BEATS_SQUARE_BY = 16;
/** So many changes of one morning at the most. */
const MOST_FOUND = 6;
/** A drift needs so many nights to be one. */
const DRIFT_NIGHTS = 8;

/** Something that may have changed; several that cannot be told from each other are one. */
export type Candidate = { kind: Unknown["kind"]; unknown: number; members: number[] };
export type Found = Judged & {
  candidate: Candidate;
  /** It, and what else it may be. */
  among: Candidate[];
  certain: boolean;
};

/** Everything that may have changed behind these stretches. */
export function candidatesOf(model: Model, stretches: readonly Stretch[]): Candidate[] {
  const stations = neverApart(stretches).map((g): Candidate => ({ kind: "station", unknown: nth(g, 0), members: g }));
  const columns = stretches.map((s) => model.response(s, 1));
  const others = model.unknowns.flatMap((u, i) => (u.kind === "main" || u.kind === "sensor" ? [i] : []));
  const seen = others.filter((i) => columns.some((c) => c.has(i)));
  const groups = alike(
    seen,
    (i) => `${nth(model.unknowns, i).kind} ${columns.map((c) => (c.has(i) ? 1 : 0)).join("")}`,
  );
  return [
    ...stations,
    ...groups.map((g): Candidate => ({ kind: nth(model.unknowns, nth(g, 0)).kind, unknown: nth(g, 0), members: g })),
  ];
}

/** What these nights say has changed, the surest first. Each is judged beside the others, held fixed, so that two true changes do not hide each other. */
export function changesIn(model: Model, window: Window, candidates: readonly Candidate[]): Found[] {
  const found: (Judged & { candidate: Candidate })[] = [];
  while (found.length < MOST_FOUND) {
    const left = candidates.filter((c) => !found.some((f) => f.candidate === c));
    const [best] = ranked(model, window, left, found);
    if (!best || Math.abs(best.z) < NAMED_Z) break;
    found.push(best);
  }
  return found.flatMap((f): Found[] => {
    const given = found.filter((o) => o !== f);
    const left = candidates.filter((c) => !given.some((o) => o.candidate === c));
    const again = ranked(model, window, left, given);
    const own = again.find((r) => r.candidate === f.candidate);
    if (!own || Math.abs(own.z) < NAMED_Z) return [];
    const near = again.filter((r) => r.candidate !== f.candidate && !beats(own.z, r.z));
    const certain = near.length === 0 && hasFigures(model, f.candidate);
    return [{ ...own, among: [f.candidate, ...near.map((r) => r.candidate)], certain }];
  });
}

function beats(z: number, next: number): boolean {
  return Math.abs(z) - Math.abs(next) >= BEATS_BY || z * z - next * next >= BEATS_SQUARE_BY;
}

/** The best change of each candidate, beside others, the surest first. */
function ranked(
  model: Model,
  window: Window,
  candidates: readonly Candidate[],
  given: readonly Change[],
): (Judged & { candidate: Candidate })[] {
  const asked = candidates.flatMap((candidate) =>
    shapes(window.length).map((s) => ({ candidate, change: { ...s, unknown: candidate.unknown } })),
  );
  const judged = window.judge(
    asked.map((a) => a.change),
    given,
  );
  const best = new Map<Candidate, Judged & { candidate: Candidate }>();
  judged.forEach((j, i) => {
    const { candidate } = nth(asked, i);
    const known = best.get(candidate);
    if (possible(model, candidate, j) && (!known || Math.abs(j.z) > Math.abs(known.z)))
      best.set(candidate, { ...j, candidate });
  });
  return [...best.values()].sort((a, b) => Math.abs(b.z) - Math.abs(a.z));
}

function shapes(nights: number): Omit<Change, "unknown">[] {
  const steps = Array.from({ length: nights }, (_, from) => ({ from, shape: "step" as const }));
  return nights < DRIFT_NIGHTS ? steps : [...steps, { from: 0, shape: "ramp" }];
}

/** A main does not gain water, and no station gives less than nothing. */
function possible(model: Model, { kind, members }: Candidate, { size }: Judged): boolean {
  if (kind === "main") return size > 0;
  if (kind !== "station") return true;
  return size > -1.2 * Math.max(...members.map((m) => nth(model.begin, m)));
}

function hasFigures(model: Model, { kind, members }: Candidate): boolean {
  if (kind !== "station") return true;
  return members.every((m) => {
    const from = expectedFlow(nth(model.w.site.stations, m))?.from;
    return from === "learned" || from === "entered";
  });
}
