import { z } from "zod";
import { flow, percent, seconds, responseSchema } from "./basics-schema.ts";

export const policySchema = z.strictObject({
  preset: z.string().max(80).optional(),
  basis: z.enum(["station", "graded"]),
  highPercent: percent,
  lowPercent: z.number().min(0).max(100),
  bands: z
    .array(z.strictObject({ fromLpm: flow, percent }))
    .max(100)
    .optional(),
  persistenceS: seconds,
  /** How persistence is judged; absent: unbroken. */
  judge: z.enum(["unbroken", "share", "mean"]).optional(),
  retest: z.boolean().optional(),
  retestWaitS: seconds.optional(),
  highResponse: responseSchema,
  lowResponse: responseSchema,
  autoReturnMin: z.number().min(0).max(100_000).nullable().optional(),
  closeWaitS: seconds.optional(),
});

/** What a point of connection or a mainline has of its own; the rest is the site's. */
export const policyOverrideSchema = policySchema
  .pick({
    highPercent: true,
    lowPercent: true,
    persistenceS: true,
    judge: true,
    retest: true,
    highResponse: true,
    lowResponse: true,
  })
  .partial()
  .strict();
export type PolicyOverride = z.infer<typeof policyOverrideSchema>;
