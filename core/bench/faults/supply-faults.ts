import type { FaultSpec } from "./spec.ts";

const ALWAYS = { size: null, onlyWhenCalled: false } satisfies Partial<FaultSpec>;

export const mainlineBreak: FaultSpec = {
  ...ALWAYS,
  words: "mainline break",
  subjects: ["mainline", "poc"],
  size: { label: "Size", quantity: "flow", unit: "", max: 100_000, usual: () => 200 },
  effect: { draws: "lost" },
  blame: "main",
  swept: "mainline",
  drilled: "mainline",
};

export const handWatering: FaultSpec = {
  ...ALWAYS,
  words: "hand watering",
  subjects: ["mainline", "poc"],
  size: { label: "Flow", quantity: "flow", unit: "", max: 10_000, usual: () => 40 },
  effect: { draws: "byHand" },
  blame: "main",
  swept: null,
  drilled: "poc",
};

export const masterValveStuckOpen: FaultSpec = {
  ...ALWAYS,
  words: "master valve does not close",
  subjects: ["masterValve"],
  effect: { holdsMasterValve: true },
  blame: "main",
  swept: null,
  drilled: "masterValve",
};

export const supplyClosed: FaultSpec = {
  ...ALWAYS,
  words: "supply closed",
  subjects: ["source", "poc"],
  effect: { closesSupply: true },
  blame: "supply",
  swept: "poc",
  drilled: "poc",
};

export const pressureDrop: FaultSpec = {
  ...ALWAYS,
  words: "pressure drop",
  subjects: ["source", "poc"],
  size: { label: "Drop", quantity: "pressure", unit: "", max: 2000, usual: () => 150 },
  effect: { dropsPressure: true },
  blame: "supply",
  swept: null,
  drilled: "poc",
};

export const pumpFailed: FaultSpec = {
  ...ALWAYS,
  words: "pump failed",
  subjects: ["pump"],
  effect: { stopsPump: true },
  blame: "supply",
  swept: "pump",
  drilled: "pump",
};
