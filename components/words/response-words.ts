/** What a controller does when a pressure limit is passed: no station is to blame for pressure, so none is searched for. */
export const PRESSURE_RESPONSES = [
  ["", "as the flow limit"],
  ["notify", "notify"],
  ["stopStation", "stop what runs"],
  ["stopAll", "stop all, lock out"],
] as const;

/** What a controller does when a limit is passed. */
export const RESPONSES = [
  ["notify", "notify"],
  ["stopStation", "stop station"],
  ["findAndIsolate", "find and isolate"],
  ["stopAll", "stop all"],
] as const;
