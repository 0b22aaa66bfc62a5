import type { ChecklistLine } from "@/core/visits/checklists";
import { MESSAGES, type Messages } from "@/messages/messages";

type LineId = keyof Messages["visit"]["lines"];
type ListId = keyof Messages["visit"]["lists"];
const { lines, lists } = MESSAGES.en.visit;

/** A usual line, in the words that it came with: it is said in everyone's language. What an organisation wrote is said as it wrote it. */
export const usualLine = ({ id, words }: Pick<ChecklistLine, "id" | "words">): LineId | null =>
  Object.hasOwn(lines, id) && lines[id as LineId] === words ? (id as LineId) : null;

/** Likewise a usual kind of visit. */
export const usualList = (id: string, name: string): ListId | null =>
  Object.hasOwn(lists, id) && lists[id as ListId] === name ? (id as ListId) : null;
