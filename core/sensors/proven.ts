import type { FlowSensor, Proving } from "../site-file/schema.ts";
import { flowFromHz } from "./sensor-range.ts";

/** A proof is renewed yearly (handbook#14-season). */
const YEAR_MS = 365 * 86_400_000;
/** Beyond what its tests left over, a constant may be this far off them before it is another constant, %. */
const SLACK_PERCENT = 2;

export type SensorProof =
  | { state: "none" }
  | { state: "proven"; last: Proving }
  | { state: "stale"; last: Proving; why: "constant" | "year"; offPercent: number };

/** Does the last meter test still speak for the sensor as it is set now? Its tests are read with the present constant. */
export function sensorProof(sensor: FlowSensor, now: string): SensorProof {
  const last = sensor.provings?.at(-1);
  if (!last) return { state: "none" };
  const offPercent = Math.max(
    ...last.tests.map((t) => {
      const metered = (60 * t.litres) / t.seconds;
      return (100 * Math.abs(flowFromHz(sensor.output, t.hz) - metered)) / metered;
    }),
  );
  if (offPercent > last.worstPercent + SLACK_PERCENT) return { state: "stale", last, why: "constant", offPercent };
  if (Date.parse(now) - Date.parse(last.at) > YEAR_MS) return { state: "stale", last, why: "year", offPercent };
  return { state: "proven", last };
}
