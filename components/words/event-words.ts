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
