import { faultSpec } from "../bench/faults/kinds.ts";
import {
  type Cause,
  type Check,
  type DrillBench,
  type Result,
  sameResult,
  type Standing,
  TAKES_S,
} from "./drill-bench.ts";

/** A check with everything set for it. */
export type Step = { standing: Standing; check: Check };
/** What a check would tell, in bits: how far it would narrow down what is still possible. */
export type Rated = { step: Step; bits: number; seconds: number /** Causes left on average. */; left: number };

/** Results count as different answers of a check when they lie twice as far apart as can just be told. */
const CLEARLY = 2;
/** Stations that a search for the best check opens, at most. */
const MOST_STATIONS = 48;

export function stepSeconds(step: Step, before: Standing): number {
  return (sameStanding(step.standing, before) ? 0 : TAKES_S.turn) + TAKES_S[step.check.type];
}

export function sameStanding(a: Standing, b: Standing): boolean {
  const same = (x: readonly string[], y: readonly string[]): boolean =>
    x.length === y.length && x.every((id) => y.includes(id));
  return same(a.open, b.open) && same(a.valves, b.valves) && same(a.pumps, b.pumps);
}

/** The causes under which a step would have said what it said. */
export function stillPossible(bench: DrillBench, causes: readonly Cause[], step: Step, said: Result): Cause[] {
  return causes.filter((c) => sameResult(said, bench.result(c, step.standing, step.check)));
}

/** Checks worth a thought: all shut, the mains under pressure, each station alone, and one with the master valves shut; each read, metered, gauged and looked at. */
export function candidateSteps(bench: DrillBench, causes: readonly Cause[]): Step[] {
  const stationIds = new Set(bench.stations.map((s) => s.id));
  const wanted = [...new Set(causes.map((c) => c.subjectId).filter((id) => stationIds.has(id)))].slice(
    0,
    MOST_STATIONS,
  );
  const spare = bench.stations.find((s) => !wanted.includes(s.id))?.id ?? bench.stations[0]?.id;
  const alone = [...wanted, ...(spare === undefined || wanted.includes(spare) ? [] : [spare])];
  const pumps = (id: string): readonly string[] =>
    bench.stations.find((s) => s.id === id)?.usesPump === false ? [] : bench.pumps;
  const everywhere: Check[] = [
    { type: "read" },
    ...bench.pocs.flatMap((pocId): Check[] => [
      { type: "meter", pocId },
      { type: "gauge", pocId },
    ]),
  ];
  const looks = [...new Set(causes.map((c) => c.subjectId))].filter(
    (id) => bench.mainlines.includes(id) || bench.pocs.includes(id),
  );
  const ofPumps = causes.some((c) => faultSpec(c.kind).effect.stopsPump) ? bench.pocs : [];
  const step = (standing: Standing, checks: Check[]): Step[] => checks.map((check) => ({ standing, check }));
  const look = (ids: readonly string[]): Check[] => ids.map((subjectId) => ({ type: "look", subjectId }));
  return [
    ...step({ open: [], valves: [], pumps: [] }, [...everywhere, ...look(wanted)]),
    ...step({ open: [], valves: bench.masterValves, pumps: [] }, [...everywhere, ...look([...looks, ...wanted])]),
    ...alone.flatMap((id) =>
      step({ open: [id], valves: bench.masterValves, pumps: pumps(id) }, [
        ...everywhere,
        ...look([id, ...looks, ...ofPumps]),
      ]),
    ),
    ...alone
      .slice(0, 2)
      .flatMap((id) => step({ open: [id], valves: [], pumps: [] }, [{ type: "read" }, ...look([id])])),
  ];
}

/**
 * The check that narrows down most for its time; null where none tells these causes apart.
 *
 * @param tried steps that are not to be made again. @default none
 */
export function bestStep(
  bench: DrillBench,
  causes: readonly Cause[],
  before: Standing,
  tried: readonly Step[] = [],
): Rated | null {
  let best: Rated | null = null;
  for (const step of candidateSteps(bench, causes)) {
    if (tried.some((t) => JSON.stringify(t) === JSON.stringify(step))) continue;
    const rated = rate(bench, causes, step, before);
    if (rated.bits > 1e-6 && (best === null || worth(rated) > worth(best))) best = rated;
  }
  return best;
}

const worth = (r: Rated): number => r.bits / (r.seconds + 30);

export function rate(bench: DrillBench, causes: readonly Cause[], step: Step, before: Standing): Rated {
  const seconds = stepSeconds(step, before);
  const groups: { result: Result; count: number }[] = [];
  for (const cause of causes) {
    const result = bench.result(cause, step.standing, step.check);
    const group = groups.find((g) => sameResult(g.result, result, CLEARLY));
    if (group) group.count++;
    else groups.push({ result, count: 1 });
  }
  const n = causes.length;
  const bits = groups.reduce((sum, g) => sum - (g.count / n) * Math.log2(g.count / n), 0);
  return { step, bits, seconds, left: groups.reduce((sum, g) => sum + (g.count * g.count) / n, 0) };
}
