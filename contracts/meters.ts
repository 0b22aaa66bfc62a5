import { z } from "zod";
import type { MeterVerdict } from "../core/record/meter-comparison.ts";

const id = z.string().min(1).max(80);
/** What is written down of why; never empty. */
const reason = z.string().trim().min(1, "Say why: who looks later has to know.").max(500);

/** Begins one of a sensor's two counters anew. `id`: of this one intention; asked again under it, it is done once. */
export const counterReset = z.strictObject({
  id: z.guid(),
  sensorId: id,
  counter: z.union([z.literal(1), z.literal(2)]),
  reason,
});
export type CounterReset = z.infer<typeof counterReset>;
export type CounterView = {
  sensorId: string;
  counter: 1 | 2;
  litres: number;
  /** When it began; null: with the first reading there is. */
  since: string | null;
  by: string | null;
  reason: string | null;
};

/** A reading of a water meter, as somebody read it. */
export const meterEntry = z.strictObject({
  id: z.guid(),
  meterId: id,
  at: z.iso.datetime({ offset: true }),
  m3: z.number().min(0, "A meter reads 0 and more.").max(1e9, "That is more than a meter has figures."),
  /** Another meter, or the same set back: it begins here. */
  begins: z.boolean().default(false),
  note: z.string().trim().max(1000).default(""),
  photoId: z.guid().nullable().default(null),
});
export type MeterEntry = z.infer<typeof meterEntry>;
export type MeterReading = Omit<MeterEntry, "meterId"> & {
  by: string;
  /** Since the reading before it, m³, of the meter and of the sensors behind it; null: it begins here. */
  between: { meterM3: number; sensorM3: number; days: number } | null;
};
/** A meter with what was read of it, newest first, and what that says. */
export type MeterLog = { meterId: string; sensorIds: string[]; readings: MeterReading[]; verdict: MeterVerdict };
