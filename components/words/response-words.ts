/** What a controller does when a limit is passed. */
export const RESPONSES = [
  ["notify", "notify"],
  ["stopStation", "stop station"],
  ["findAndIsolate", "find and isolate"],
  ["stopAll", "stop all"],
] as const;
