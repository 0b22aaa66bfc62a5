import type { EpochS } from "../dates/wall-time.ts";
import { sensorRange } from "../sensors/sensor-range.ts";
import type { FlowSensor } from "../site-file/schema.ts";
import type { ActiveFaults } from "./faults/active.ts";
import { normal, type Random } from "./random.ts";

/** Standard deviation of a reading, as a share of it. */
export const READING_NOISE = 0.01;

/** What flow sensors make of the water that passes them: noise, pulses, a range, and what may be wrong with them. */
export class SensorReadings {
  private readonly pulse = new Map<string, { volumeL: number; lastAt: EpochS; reading: number }>();
  /** Litres since the last pulse, and the pulses of this second, by sensor. */
  private readonly sincePulseL = new Map<string, number>();
  pulses = new Map<string, number[]>();
  private readonly random: Random | null;
  private readonly exact: boolean;
  private readonly faults: ActiveFaults;

  /** @param random null: without noise, and pulses are not counted */
  constructor(random: Random | null, exact: boolean, faults: ActiveFaults) {
    this.random = random;
    this.exact = exact;
    this.faults = faults;
  }

  /** Pulses are told for one second. */
  nextSecond(): void {
    if (this.pulses.size > 0) this.pulses = new Map();
  }

  /** What a sensor reads of a flow in the second from `t`, L/min. */
  read(sensor: FlowSensor, flowLpm: number, t: EpochS): number {
    if (this.faults.on("silences", sensor.id, t)) return 0;
    let seen = flowLpm;
    const noise = this.faults.sum("jitters", sensor.id, t);
    if (!this.exact) {
      const { minLpm } = sensorRange(sensor);
      if (minLpm !== null && seen < minLpm) seen = 0;
      if (seen > 0 && this.random) seen = Math.max(0, seen * (1 + READING_NOISE * normal(this.random)));
    }
    if (sensor.output.type === "pulse" && this.random) {
      this.countPulses(
        sensor.id,
        sensor.output.litresPerPulse,
        seen * (this.faults.on("scales", sensor.id, t)?.size ?? 1),
        t,
      );
      if (!this.exact) seen = this.pulseReading(sensor.id, sensor.output.litresPerPulse, seen, t);
    }
    seen *= this.faults.on("scales", sensor.id, t)?.size ?? 1;
    return noise > 0 && this.random ? Math.max(0, seen + noise * (2 * this.random() - 1)) : seen;
  }

  /** When within this second the sensor sends its pulses. */
  private countPulses(id: string, litresPerPulse: number, flowLpm: number, t: EpochS): void {
    const rate = flowLpm / 60;
    let volume = this.sincePulseL.get(id) ?? 0;
    const sent: number[] = [];
    for (let next = litresPerPulse - volume; rate > 0 && next <= rate + 1e-12; next += litresPerPulse)
      sent.push(t + next / rate);
    volume += rate - sent.length * litresPerPulse;
    this.sincePulseL.set(id, volume);
    this.pulses.set(id, sent);
  }

  /** A pulse sensor is judged by the time between pulses; with none for a while the reading can only be lower. */
  private pulseReading(id: string, litresPerPulse: number, flowLpm: number, t: EpochS): number {
    const state = this.pulse.get(id) ?? { volumeL: 0, lastAt: t, reading: 0 };
    state.volumeL += flowLpm / 60;
    if (state.volumeL >= litresPerPulse) {
      const pulses = Math.floor(state.volumeL / litresPerPulse);
      state.volumeL -= pulses * litresPerPulse;
      state.reading = (60 * pulses * litresPerPulse) / Math.max(1, t - state.lastAt);
      state.lastAt = t;
    } else if (t > state.lastAt) state.reading = Math.min(state.reading, (60 * litresPerPulse) / (t - state.lastAt));
    this.pulse.set(id, state);
    return state.reading < 0.5 ? 0 : state.reading;
  }
}
