import type { LetterState } from "@/contracts/telling";

export const LETTER_WORDS: Record<LetterState, string> = {
  waiting: "waiting",
  sending: "on its way",
  sent: "sent",
  failed: "not sent",
  unsure: "perhaps sent",
};
