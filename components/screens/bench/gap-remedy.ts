import { type SweepCell, SWEPT_ON_MAINS } from "@/core/bench/sweep";
import { subjectName } from "@/core/judge/alarm-words";
import type { SiteFile } from "@/core/site-file/schema";

/** What would close a gap, in one sentence. */
export function gapRemedy(site: SiteFile, g: SweepCell): string {
  if (g.outcome === "wrong" && SWEPT_ON_MAINS.includes(g.kind))
    return `${g.wrongly.map((id) => subjectName(site, id)).join(", ")} was blamed for it. ${g.kind === "sensorDead" ? "A pressure sensor at the connection tells a dead sensor from a supply." : "Let more stations run beside each other, or notify only until it is proved."}`;
  if (g.kind === "sensorDead")
    return "Nothing tells it from a closed supply. A pressure sensor with a low limit at the connection would name the sensor.";
  if (g.kind === "wrongK" && g.othersMin > 0)
    return "A limit shut the connection for it. Keep the burst limit well over what a constant a third too large would read of the fullest set, and prove the sensor after every change.";
  if (g.kind === "mainlineBreak" && g.outcome !== "told")
    return "No limit reaches it. Set a burst limit at the connection, and an off-schedule limit that shuts.";
  if ((g.kind === "supplyClosed" || g.kind === "pumpFailed") && g.outcome !== "told")
    return "No low limit sees it. Set one that finds and isolates, or a pressure limit at the connection.";
  if (g.kind === "wrongK" && g.outcome !== "told") return "Inside the limits: prove the sensor against the meter.";
  if (g.outcome === "wrong")
    return `${g.wrongly.map((id) => subjectName(site, id)).join(", ")} was shut off: ${g.kind === "stuckClosed" ? "alone, it leaves its pump without flow, which stops it at once. Let it run beside others, or notify only on low flow." : "learn again what runs beside it, and its sets."}`;
  if (g.outcome === "told") return "The response only tells. Choose find and isolate once the flows are learned.";
  if (g.outcome === "late")
    return "Its first sets hide it. Fewer at once, or longer between valve changes, so that it is judged sooner.";
  if (g.kind === "stuckClosed")
    return "Its flow is less than the low limit leaves to the set. A tighter low limit, or fewer beside it.";
  if (g.kind === "stuckOpen") return "Nothing judges the main after it. Set an off-schedule limit that shuts.";
  return "The set it runs in hides it. See Starting points on Limits: a tighter limit, its set learned, or fewer at once.";
}
