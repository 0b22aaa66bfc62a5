import type { Station } from "@/core/site-file/schema";

/** How a run is divided, as it stands in grids: "3 ×", "max 5 min". */
export const cycleWords = (cycle: NonNullable<Station["cycle"]>): string =>
  "count" in cycle ? `${cycle.count} ×` : `max ${cycle.longestMin} min`;
