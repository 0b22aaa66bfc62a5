import type { How } from "@/contracts/learning";

/** Where a learned flow comes from. */
export const HOW: Record<How, string> = {
  bench: "rehearsed on the bench",
  readings: "from a recorder's log",
  list: "from a list",
  stopwatch: "by stopwatch",
  controller: "learned at the controller",
  nights: "from the nights' readings",
};
