import { z } from "zod";
import { CHECK_UNITS } from "../core/wiring/valve-check.ts";

const id = z.string().min(1).max(80);
const checkReadings = z
  .array(z.strictObject({ stationId: id, value: z.number().min(0).max(1e9) }))
  .min(1, "Nothing was measured yet.")
  .max(10_000);
/** A check that somebody made at the controller. `id`: of this one intention; asked again under it, it is kept once. */
export const valveCheckMade = z.strictObject({
  id: z.guid(),
  controllerId: id,
  at: z.iso.datetime({ offset: true }),
  how: z.enum(["typed", "pasted"]),
  unit: z.enum(CHECK_UNITS),
  readings: checkReadings,
});
export type ValveCheckMade = z.infer<typeof valveCheckMade>;
export type ValveCheck = Omit<ValveCheckMade, "how"> & { how: ValveCheckMade["how"] | "gateway"; by: string };
