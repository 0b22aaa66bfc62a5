import type { Looked } from "@/core/visits/checklists";

export const LOOKED_WORDS: Record<Looked, string> = {
  ok: "In order",
  done: "Done anew",
  problem: "Not in order",
  left: "Not looked at",
};
