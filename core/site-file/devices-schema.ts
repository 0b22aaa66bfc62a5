import { z } from "zod";
import {
  id,
  name,
  text,
  flow,
  positiveFlow,
  kPa,
  diameterMm,
  instant,
  responseSchema,
  seconds,
} from "./basics-schema.ts";

/** A wiring or placement check that someone made on this device; the server enters who and when. */
export const deviceCheckSchema = z.strictObject({
  check: z.string().min(1).max(80),
  ok: z.boolean(),
  by: name,
  at: instant,
  note: text.optional(),
});
export const coil = z.enum(["ac24", "dcLatching"]);

const common = {
  id,
  name: name.optional(),
  serial: z.string().max(80).optional(),
  address: z.string().max(80).optional(),
  controllerId: id.optional(),
  wirePathId: id.optional(),
  checks: z.array(deviceCheckSchema).max(100).optional(),
};
const lossPoint = z.strictObject({ flowLpm: flow, lossKpa: kPa });

export const pipeSchema = z.strictObject({
  ...common,
  kind: z.literal("pipe"),
  material: z.string().min(1).max(40),
  series: z.string().min(1).max(40),
  nominal: z.string().min(1).max(40),
  lengthM: z.number().min(0).max(100_000),
  insideDiameterMm: diameterMm.optional(),
  maxVelocityMs: z.number().gt(0).max(20).optional(),
  maxVelocityReason: text.optional(),
  /** Hazen–Williams C, where it is known better than from the material. */
  hazenWilliamsC: z.number().min(10).max(200).optional(),
  /** Sum of the local loss coefficients of its fittings: loss = K·v²/2g. */
  minorLossK: z.number().min(0).max(10_000).optional(),
});

/** What a flow sensor gives, and its constant. */
export const outputSchema = z.discriminatedUnion("type", [
  z.strictObject({
    type: z.literal("frequency"),
    kGpm: z.number().gt(0).max(100_000),
    offsetHz: z.number().min(-1000).max(1000),
    insideDiameterMm: diameterMm.optional(),
    referenceDiameterMm: diameterMm.optional(),
    /** The unit in which the data sheet gives K; the file keeps US gal/min. */
    sheetUnit: z.enum(["gpm", "lpm"]).optional(),
  }),
  z.strictObject({
    type: z.literal("pulse"),
    litresPerPulse: z.number().gt(0).max(1_000_000),
    /** How the data sheet says it: volume a pulse, or pulses a volume when `sheetReciprocal`. The file keeps litres. */
    sheetUnit: z.enum(["gal", "L", "m3", "ft3"]).optional(),
    sheetReciprocal: z.boolean().optional(),
  }),
]);

const flowSensorSchema = z.strictObject({
  ...common,
  kind: z.literal("flowSensor"),
  output: outputSchema,
  provings: z
    .array(
      z.strictObject({
        at: instant,
        by: name,
        worstPercent: z.number().min(0).max(1000),
        tests: z
          .array(
            z.strictObject({
              hz: z.number().gt(0).max(1_000_000),
              litres: z.number().gt(0).max(1e9),
              seconds: z.number().gt(0).max(1e6),
            }),
          )
          .min(1)
          .max(100),
      }),
    )
    .max(100)
    .optional(),
  minLpm: flow.optional(),
  maxLpm: flow.optional(),
  insideDiameterMm: diameterMm.optional(),
  vMinMs: z.number().min(0).max(50).optional(),
  vMaxMs: z.number().gt(0).max(50).optional(),
});

export const deviceSchema = z.discriminatedUnion("kind", [
  z.strictObject({
    ...common,
    kind: z.literal("meter"),
    continuousMaxLpm: flow.optional(),
    safeMaxLpm: flow.optional(),
    lossKpaAt: z.strictObject({ flowLpm: positiveFlow, lossKpa: kPa }).optional(),
  }),
  z.strictObject({
    ...common,
    kind: z.literal("backflow"),
    maxLpm: flow.optional(),
    lossPoints: z.array(lossPoint).max(100).optional(),
  }),
  z.strictObject({
    ...common,
    kind: z.literal("masterValve"),
    normally: z.enum(["closed", "open"]),
    maxLpm: flow.optional(),
    kv: z.number().gt(0).max(100_000).optional(),
    coil: coil.optional(),
    solenoidMa: z.number().min(0).max(100_000).optional(),
  }),
  z.strictObject({
    ...common,
    kind: z.literal("pump"),
    curve: z
      .array(z.strictObject({ flowLpm: flow, headM: z.number().min(0).max(2000) }))
      .min(1)
      .max(100),
    minFlowLpm: flow.optional(),
    bestEfficiencyLpm: flow.optional(),
    /** How many equal pumps run side by side; the curve is one pump's. */
    parallel: z.number().int().min(1).max(20).optional(),
    relayMa: z.number().min(0).max(100_000).optional(),
  }),
  pipeSchema,
  z.strictObject({ ...common, kind: z.literal("fixedLoss"), lossKpa: kPa }),
  z.strictObject({ ...common, kind: z.literal("regulator"), setKpa: kPa }),
  z.strictObject({
    ...common,
    kind: z.literal("pressureSensor"),
    lowKpa: kPa.optional(),
    highKpa: kPa.optional(),
    /** Absent: as long as a flow limit, and what that side's flow limit does. */
    persistenceS: seconds.optional(),
    response: responseSchema.optional(),
  }),
  flowSensorSchema,
]);
