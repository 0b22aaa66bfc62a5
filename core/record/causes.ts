/** What water flowed for (handbook#14-season), in the order in which it is told. `metered`: no sensor sees it, and nobody knows. */
export const CAUSES = ["scheduled", "byHand", "learning", "handWatering", "offSchedule", "broken", "metered"] as const;
export type Cause = (typeof CAUSES)[number];

export const CAUSE_WORDS: Record<Cause, string> = {
  scheduled: "programs",
  byHand: "run by hand",
  learning: "learning",
  handWatering: "hand watering",
  offSchedule: "off schedule, a leak",
  broken: "broken",
  metered: "by the meter alone",
};
