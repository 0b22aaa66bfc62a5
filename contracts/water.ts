import { z } from "zod";
import { dateSchema } from "../core/dates/date-schema.ts";

/** What water is told by. */
export const BY = ["cause", "source", "poc", "mainline", "program", "station"] as const;
export type By = (typeof BY)[number];
export type Step = "day" | "month";

/** Water of a site from a day to a day, both included; where they are not said, of the last two years and this month up to now. */
export const waterQuery = z
  .object({
    from: dateSchema.optional(),
    to: dateSchema.optional(),
    by: z.enum(BY).default("cause"),
    step: z.enum(["day", "month"]).default("month"),
  })
  .refine((q) => !q.from || !q.to || q.from <= q.to, "The first day comes after the last.");
export type WaterQuery = z.infer<typeof waterQuery>;

/** `at`: a day or a month; `key`: an id of the site file, a cause, or empty for none. `estimated`: in a gap, as planned. */
export type WaterUsed = {
  from: string;
  to: string;
  rows: { at: string; key: string; estimated: boolean; litres: number }[];
  /** By source, what was not read as planned; `lostL`: of it leaks and breaks. */
  sources: { at: string; sourceId: string; litres: number; lostL: number }[];
  /** Of how much of each day or month something was read, by sensor. */
  sensors: { at: string; sensorId: string; litres: number; seconds: number; gapS: number }[];
};
