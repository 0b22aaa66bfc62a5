import type { FaultSpec } from "./spec.ts";

const OF_SENSOR = {
  subjects: ["flowSensor"],
  size: null,
  blame: "sensor",
  onlyWhenCalled: false,
} satisfies Partial<FaultSpec>;

export const sensorDead: FaultSpec = {
  ...OF_SENSOR,
  words: "sensor dead",
  effect: { silences: true },
  swept: "flowSensor",
  drilled: "flowSensor",
};

export const sensorNoise: FaultSpec = {
  ...OF_SENSOR,
  words: "sensor noise",
  size: { label: "Size", quantity: "flow", unit: "", max: 10_000, usual: () => 20 },
  effect: { jitters: true },
  swept: null,
  drilled: "flowSensor",
};

export const wrongK: FaultSpec = {
  ...OF_SENSOR,
  words: "wrong K",
  size: { label: "Factor", quantity: null, unit: "×", max: 100, usual: () => 1.3 },
  effect: { scales: true },
  swept: "flowSensor",
  drilled: "flowSensor",
};
