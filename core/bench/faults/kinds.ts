import { sensorDead, sensorNoise, wrongK } from "./sensor-faults.ts";
import type { FaultSpec } from "./spec.ts";
import {
  alsoOpens,
  brokenLateral,
  brokenOutlet,
  clogged,
  stuckClosed,
  stuckOpen,
  wrongValve,
} from "./station-faults.ts";
import {
  handWatering,
  mainlineBreak,
  masterValveStuckOpen,
  pressureDrop,
  pumpFailed,
  supplyClosed,
} from "./supply-faults.ts";

/** Every kind of fault: the one place that says what they are (docs/decisions/0011-records-by-kind.md). */
export const FAULTS = {
  brokenOutlet,
  brokenLateral,
  mainlineBreak,
  stuckOpen,
  stuckClosed,
  clogged,
  supplyClosed,
  pumpFailed,
  sensorDead,
  sensorNoise,
  wrongK,
  masterValveStuckOpen,
  handWatering,
  pressureDrop,
  wrongValve,
  alsoOpens,
} satisfies Record<string, FaultSpec>;
export type FaultKind = keyof typeof FAULTS;
export const FAULT_KINDS = Object.keys(FAULTS) as [FaultKind, ...FaultKind[]];

/** The kind's record, typed alike for all. */
export const faultSpec = (kind: FaultKind): FaultSpec => FAULTS[kind];
export const faultWords = (kind: FaultKind): string => FAULTS[kind].words;
/** Needs a second station: the one whose valve opens. */
export const needsOther = (kind: FaultKind): boolean => faultSpec(kind).effect.opensOther !== undefined;
