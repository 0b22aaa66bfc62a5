import { KIND_WORDS } from "./alarm-words";

/** Why, as a sentence's end: an alarm's reason is its kind. */
export const reasonWords = ({ type, reason }: { type: string; reason: string }): string =>
  type === "alarm" ? (KIND_WORDS[reason] ?? reason) : reason;

/** What happened on the bench or on a live site, in a word or two. */
export const EVENT_WORDS: Record<string, string> = {
  open: "opens",
  close: "closes",
  masterValveOpen: "master valve opens",
  masterValveShut: "master valve shuts",
  pumpOn: "pump on",
  pumpOff: "pump off",
  trip: "limit trips",
  searchBegins: "search begins",
  test: "test",
  testEnds: "test ends",
  lockedOut: "locked out",
  alarm: "ALARM",
  stopped: "stopped",
  suspect: "suspect",
  retest: "retest",
  resumed: "resumes",
};
