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

const month = z.string().regex(/^\d{4}-(0[1-9]|1[0-2])$/, "is a month, written YYYY-MM");
/** Months of all sites, both included: the twelve up to the one that is where none are said. */
export const officeWaterQuery = z
  .object({ from: month.optional(), to: month.optional() })
  .refine((q) => !q.from || !q.to || q.from <= q.to, "The first month comes after the last.");
export type OfficeWaterQuery = z.infer<typeof officeWaterQuery>;
/** @property beforeL in the same months a year before @property budgetM3 of the months of which something is known; null: nothing is known of it, or there is no budget */
export type SiteWater = {
  siteId: string;
  site: string;
  client: string | null;
  litres: number | null;
  lostL: number | null;
  estimatedL: number | null;
  beforeL: number | null;
  budgetM3: number | null;
};
export type OfficeWater = {
  from: string;
  to: string;
  months: { month: string; litres: number; lostL: number; estimatedL: number }[];
  sites: SiteWater[];
};
