import type { Program } from "./schema.ts";

/** One start as the file holds it: a time of day, or one that may be switched off and kept. */
export type Start = Program["starts"][number];

export const startAt = (start: Start): string => (typeof start === "string" ? start : start.at);
export const isOn = (start: Start): boolean => typeof start === "string" || start.off !== true;

/** Times of day at which a program starts: those that are switched on (site-file#additions). */
export const startsOn = (program: Pick<Program, "starts">): string[] => program.starts.filter(isOn).map(startAt);

/** In words: "21:30, 02:00 (off)". */
export const startsWords = (program: Pick<Program, "starts">): string =>
  program.starts.map((s) => (isOn(s) ? startAt(s) : `${startAt(s)} (off)`)).join(", ");
