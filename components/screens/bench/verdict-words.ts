import type { Conventions } from "@/components/kit/conventions";
import { faultSpec, faultWords } from "@/core/bench/faults/kinds";
import type { Verdict } from "@/core/limits/verdict";
import { subjectName } from "@/core/judge/alarm-words";
import { isFoundNextMorning } from "@/core/reckon/next-morning";
import type { WouldFind } from "@/core/reckon/would-find";
import type { SiteFile } from "@/core/site-file/schema";

const minutes = (s: number): string => (s < 90 ? `${Math.round(s)} s` : `${Math.round(s / 60)} min`);

/**
 * What was broken, how long it acted, seen or not, and why not.
 *
 * @param nights from which size on the night's readings name a break; null while that is not known
 */
export function verdictWords(
  site: SiteFile,
  v: Verdict,
  { quantity }: Conventions,
  nights: readonly WouldFind[] | null,
): { seen: boolean; words: string } {
  const { size } = faultSpec(v.kind);
  const what = faultWords(v.kind);
  const how = size?.quantity ? `, ${quantity(v.size, size.quantity)}` : "";
  const begun = `${what[0]?.toUpperCase()}${what.slice(1)} on ${subjectName(site, v.subjectId)}${how}, from ${v.from.slice(11, 16)}`;
  if (v.alarm) {
    const shut =
      v.locked.length > 0
        ? `shut off: ${v.locked.map((id) => subjectName(site, id)).join(", ")}`
        : "told, nothing shut off";
    return { seen: true, words: `${begun}: seen after ${minutes(v.alarm.afterS)}; ${shut}.` };
  }
  const found =
    nights && isFoundNextMorning(site, nights, v) ? " Found next morning: the night's readings name it." : "";
  return {
    seen: false,
    words: `${begun}: it acted for ${minutes(v.actedS)} and passed unseen. ${whyWords(v, quantity)}${found}`,
  };
}

function whyWords({ why }: Verdict, quantity: Conventions["quantity"]): string {
  switch (why?.code) {
    case "neverInUse":
      return "Nothing ran through it while it was there: drop it earlier, or on what runs.";
    case "insideBand":
      return `It is smaller than the room that the limits leave, ${quantity(why.roomLpm, "flow")} with ${why.withStations} other${why.withStations === 1 ? "" : "s"} running.`;
    case "neverJudged":
      return `It is over the limit, but no reading lasts long enough: ${minutes(why.longestS)} after hold-off, and persistence asks ${minutes(why.persistenceS)}.`;
    case "notWatched":
      return "Its flow is not watched: the station is unmonitored, or no sensor sees all of its water.";
    default:
      return "No limit speaks of it.";
  }
}
