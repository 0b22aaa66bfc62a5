import { subjectName } from "../judge/alarm-words.ts";
import { faultWords } from "../bench/faults/kinds.ts";
import type { SiteFile } from "../site-file/schema.ts";
import { showNumber, showQuantity, toShown, type UnitSystem } from "../units/units.ts";
import type { Cause, Check, Look, Result, Standing } from "./drill-bench.ts";

const LOOKS: Record<Look, string> = {
  asItShould: "runs as it should",
  nothingComes: "called, but nothing comes",
  jet: "one head is gone: a jet",
  wellsUp: "water wells up along its lateral, the last heads stay low",
  weak: "weak, every head of it",
  runsUncalled: "it runs though nobody called it",
  shutAndDry: "shut and dry",
  wetGround: "water stands over the main",
  dryGround: "dry ground along the main",
  hose: "someone waters with a hose",
  supplyShut: "the valve before it is shut",
  pumpStill: "the pump is called and stands still",
  nothingToSee: "nothing out of the ordinary to see",
};

/** What stands open, in words. */
export function standingWords(site: SiteFile, standing: Standing): string {
  const stations = standing.open.map((id) => site.stations.find((s) => s.id === id)?.number ?? id).join(", ");
  const valves = standing.valves.length === 0 ? "master valves shut" : "master valves open";
  const pumps = standing.pumps.length > 0 ? ", pump on" : "";
  const some = standing.open.length === 1 ? `station ${stations} alone` : `stations ${stations}`;
  return `${standing.open.length === 0 ? "all stations shut" : some}; ${valves}${pumps}`;
}

export function checkWords(site: SiteFile, check: Check): string {
  switch (check.type) {
    case "read":
      return "read the sensors";
    case "meter":
      return `time the meter at ${subjectName(site, check.pocId)}`;
    case "gauge":
      return `gauge at ${subjectName(site, check.pocId)}`;
    case "look":
      return `look at ${subjectName(site, check.subjectId)}`;
  }
}

export function resultWords(site: SiteFile, result: Result, units: UnitSystem): string {
  switch (result.type) {
    case "read":
      return [
        ...result.flow.map(
          (f) =>
            `${subjectName(site, f.id)} ${showNumber(toShown(f.lpm, "flow", units), 1)} ± ${showQuantity(f.swingLpm, "flow", units, 1)}`,
        ),
        ...result.pressure.map((p) => `${subjectName(site, p.id)} ${showQuantity(p.kPa, "pressure", units)}`),
      ].join("; ");
    case "meter":
      return showQuantity(result.lpm, "flow", units, 1);
    case "gauge":
      return showQuantity(result.kPa, "pressure", units);
    case "look":
      return LOOKS[result.look];
  }
}

export function causeWords(site: SiteFile, cause: Cause): string {
  return `${faultWords(cause.kind)}: ${subjectName(site, cause.subjectId)}`;
}
