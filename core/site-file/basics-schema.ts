import { z } from "zod";
import { clockSchema } from "../dates/date-schema.ts";
import { weekdaySchema } from "../dates/weekday.ts";

/** What the members of a site file are made of: texts and figures within their ranges, each unit as its name says. */
/** The longest id, wherever one is kept, sent or asked for. */
export const MOST_ID = 80;
// biome-ignore lint/suspicious/noControlCharactersInRegex: it is what is looked for
const NO_NUL = /^[^\u0000]*$/;
export const noNul = z.string().regex(NO_NUL, "is not right: it holds the character NUL");
export const id = noNul.min(1).max(MOST_ID);
export const name = noNul.max(200);
export const text = noNul.max(4000);
export const longText = noNul.max(20_000);
export const flow = z.number().min(0).max(1_000_000);
export const positiveFlow = z.number().gt(0).max(1_000_000);
export const kPa = z.number().min(0).max(10_000);
export const MOST_PERCENT = 1000;
export const percent = z.number().min(0).max(MOST_PERCENT);
export const seconds = z.number().int().min(0).max(86_400);
/** Of prices. */
export const currency = z.string().regex(/^[A-Z]{3}$/, "is to be three capital letters, like EUR");
/** Of a cubic metre, in the site's currency. */
export const price = z.number().min(0).max(1e6);
export const elevation = z.number().min(-500).max(9000);
export const diameterMm = z.number().gt(0).max(5000);
export const instant = z
  .string()
  .refine((v) => !Number.isNaN(Date.parse(v)), "is not an instant, written like 2026-07-14T22:00:00Z");

export const responseSchema = z.enum(["notify", "stopStation", "findAndIsolate", "stopAll"]);
export const windowSchema = z.strictObject({
  days: z.array(weekdaySchema).max(7).optional(),
  from: clockSchema,
  to: clockSchema,
});
