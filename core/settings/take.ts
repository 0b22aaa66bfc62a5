import { ruleOf } from "../dates/day-rules.ts";
import type { KeptProfile } from "../profiles/profile.ts";
import { type DifferenceCode, type ProfileDifference, roundSite } from "../profiles/round-site.ts";
import type { ToldChange } from "../site-file/difference.ts";
import { parseSite } from "../site-file/parse-site.ts";
import { checksum } from "./checksum.ts";
import { settingsDifference } from "./compare.ts";
import { withItem } from "./item.ts";
import type { ControllerSettings } from "./settings-of.ts";

/** What became of one setting that was sent. `value`: what the controller holds in its place; `reason` where it is not what was sent. */
export type TakenItem = {
  path: string;
  what: string;
  outcome: "taken" | "changed" | "refused";
  value: string;
  reason?: string;
};
export type Taken =
  | { outcome: "taken" | "partly"; holds: ControllerSettings; items: TakenItem[] }
  | { outcome: "refused"; reason: string };

/** Where a difference of a profile shows in the settings, and whether it is another step of the same or is not there at all. */
const SHOWS: Readonly<Record<DifferenceCode, { keys: readonly string[]; refused: string | null }>> = {
  minutes: { keys: ["runs"], refused: null },
  percent: { keys: ["seasonalPercent"], refused: null },
  atOnce: { keys: ["maxStationsAtOnce"], refused: null },
  controllerAtOnce: { keys: ["maxStationsAtOnce"], refused: null },
  delay: { keys: ["delayS"], refused: null },
  starts: { keys: ["starts"], refused: null },
  high: { keys: ["highPercent"], refused: null },
  low: { keys: ["lowPercent"], refused: null },
  persistence: { keys: ["persistenceS"], refused: null },
  programs: { keys: ["enabled"], refused: "it has no room for so many programs" },
  stations: { keys: ["stations"], refused: "it has no room for so many stations" },
  cycle: { keys: ["cycle", "soakMin"], refused: "it knows no cycle and soak" },
  windows: { keys: ["windows", "closedHours"], refused: "it knows no water windows" },
  days: { keys: ["days", "enabled"], refused: "it does not know this rule of days" },
  flowLimits: {
    keys: ["highResponse", "lowResponse", "highPercent", "lowPercent"],
    refused: "it judges no flow",
  },
};

/**
 * What a controller of this profile makes of settings that were sent to it: all of them at once or, where they did not come whole, nothing of them. What it does in steps it
 * takes in its own step; what it cannot do stays as it held it (handbook#11-controllers).
 *
 * @param sum the checksum that was sent with them
 */
export function takeSettings(
  holds: ControllerSettings,
  sent: unknown,
  sum: string,
  profile: KeptProfile | null,
): Taken {
  if (checksum(sent) !== sum) return { outcome: "refused", reason: "the checksum is wrong: they did not come whole" };
  const parsed = parseSite(sent);
  if (!parsed.ok) return { outcome: "refused", reason: parsed.problems[0]?.message ?? "they cannot be read" };
  const asked = parsed.site;
  const controllerId = holds.controllers[0]?.id;
  if (asked.controllers.length !== 1 || asked.controllers[0]?.id !== controllerId)
    return { outcome: "refused", reason: "they are another controller's" };
  const able = profile ? asItCan(asked, holds, profile) : { next: asked, differences: [] };
  const falls = new Map(settingsDifference(asked, able.next).map((d) => [d.path, d]));
  /** An item that the controller holds otherwise than it was sent. */
  const otherwise = (fell: ToldChange): TakenItem => {
    const why = able.differences.find((p) => tells(p, fell.path));
    const refused = why ? SHOWS[why.code].refused : null;
    return {
      path: fell.path,
      what: fell.what,
      outcome: refused === null ? "changed" : "refused",
      value: fell.now,
      reason: refused ?? "it takes this in its own steps",
    };
  };
  const changes = settingsDifference(holds, asked);
  const items = changes.map((d): TakenItem => {
    const fell = falls.get(d.path);
    return fell ? otherwise(fell) : { path: d.path, what: d.what, outcome: "taken", value: d.now };
  });
  // What it held in its own step before and does not take otherwise now either.
  const told = new Set(changes.map((d) => d.path));
  for (const [path, fell] of falls) if (!told.has(path)) items.push(otherwise(fell));
  return { outcome: items.every((i) => i.outcome === "taken") ? "taken" : "partly", holds: able.next, items };
}

const tells = (p: ProfileDifference, path: string): boolean => {
  const { keys } = SHOWS[p.code];
  const ofPolicy = path.startsWith("policy.") && p.subjectId === p.controllerId;
  return (path.includes(`[${p.subjectId}]`) || ofPolicy) && keys.some((k) => path.includes(k));
};

/** The settings in this profile's steps; what it has not at all is as it was held, and a program with it that was not held rests. */
function asItCan(
  asked: ControllerSettings,
  holds: ControllerSettings,
  profile: KeptProfile,
): { next: ControllerSettings; differences: ProfileDifference[] } {
  const named = {
    ...asked,
    controllers: asked.controllers.map((c) => ({ ...c, profileId: profile.id })),
  };
  const { site, differences } = roundSite(named, [profile]);
  const profileId = asked.controllers[0]?.profileId;
  let next: ControllerSettings = {
    ...site,
    // How many it runs at most is its own, whatever it is set to.
    controllers: site.controllers.map((c) => {
      const { profileId: _, maxStationsAtOnce, ...rest } = c;
      return {
        ...rest,
        ...(profileId === undefined ? {} : { profileId }),
        ...(asked.controllers[0]?.maxStationsAtOnce === undefined || maxStationsAtOnce === undefined
          ? {}
          : { maxStationsAtOnce }),
      };
    }),
  };
  for (const d of differences) {
    if (d.code === "days") {
      const known = holds.programs.find((p) => p.id === d.subjectId);
      const ability = known ? ruleOf(known.days).ability : null;
      next =
        known && (ability === null || profile[ability])
          ? (withItem(next, holds, `programs[${d.subjectId}].days`) ?? next)
          : {
              ...next,
              programs: next.programs.map((p) => (p.id === d.subjectId ? { ...p, enabled: false } : p)),
            };
    }
    if (d.code === "flowLimits")
      next = { ...next, policy: { ...next.policy, highResponse: "notify", lowResponse: "notify" } };
    if (d.code === "stations") {
      const kept = next.stations.slice(0, profile.stations);
      next = {
        ...next,
        stations: kept,
        programs: next.programs.map((p) => ({
          ...p,
          runs: p.runs.filter((r) => kept.some((s) => s.id === r.stationId)),
        })),
      };
    }
  }
  return { next, differences };
}
