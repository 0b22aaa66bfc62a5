import type { SiteFile } from "../site-file/schema.ts";
import type { Cause, CauseCode } from "./odd.ts";

/** A cause in words, and the check that tells it from the others. */
const WORDS: Record<CauseCode, { cause: string; check: string }> = {
  brokenOutlet: { cause: "broken or missing nozzle", check: "Run it and walk it: look for a jet or a pool." },
  brokenLateral: {
    cause: "broken lateral",
    check:
      "Run it and look for water rising along the lateral; close it and watch whether the reading falls to nothing.",
  },
  largerNozzles: {
    cause: "larger nozzles than written down",
    check: "Read the nozzles of three heads against the sheet.",
  },
  wiredTogether: {
    cause: "two valves wired together",
    check: "Run it and see whether the other one opens too; measure the ohms, two coils in parallel read half.",
  },
  sameValve: {
    cause: "two station numbers on one valve",
    check: "Run both together: the flow stays that of one. Then trace the wires of both.",
  },
  leak: {
    cause: "a leak in its lateral",
    check: "Run it ten minutes and look for wet ground; compare with the meter.",
  },
  wrongDesign: {
    cause: "the design figure is wrong",
    check: "It was learned the same before: count the outlets and correct the design.",
  },
  throttled: { cause: "flow control throttled", check: "Open the flow control fully and run it again." },
  halfOpen: {
    cause: "valve half open",
    check: "Open it by its bleed screw: if the flow rises, clean the diaphragm and check the solenoid.",
  },
  cloggedFilter: {
    cause: "clogged filter",
    check: "Read the pressure before and after the filter, or flush it and run it again.",
  },
  cloggedOutlets: { cause: "clogged or capped outlets", check: "Walk it and count the outlets that run." },
  wrongNozzles: {
    cause: "smaller nozzles than written down",
    check: "Read the nozzles of three heads against the sheet.",
  },
  lowPressure: {
    cause: "low pressure",
    check: "Read the pressure at the valve while it runs; others on this main should be low too.",
  },
  wear: {
    cause: "clogging or wear over weeks",
    check: "It has fallen at each learning: clean it, learn it again, and see whether it is back.",
  },
  pressureRose: {
    cause: "higher pressure than at the last learning",
    check: "Read the static pressure and compare it with the last time.",
  },
};

export function causeWords(site: SiteFile, cause: Cause): { cause: string; check: string } {
  const { cause: words, check } = WORDS[cause.code];
  const other = site.stations.find((s) => s.id === cause.otherId);
  const { outlets = 0 } = cause;
  const share = outlets > 0 ? ` (as much as ${outlets} outlet${outlets > 1 ? "s" : ""})` : "";
  const more = other ? ` (with ${other.number} ${other.name})` : share;
  return { cause: `${words}${more}`, check };
}
