import { z } from "zod";
import { clockSchema, dateSchema, localMinuteSchema, timeZoneSchema } from "../dates/date-schema.ts";
import { daysSchema } from "../dates/day-rules.ts";
import {
  id,
  name,
  text,
  longText,
  flow,
  positiveFlow,
  kPa,
  percent,
  seconds,
  elevation,
  instant,
  responseSchema,
  windowSchema,
  currency,
  price,
} from "./basics-schema.ts";
import { type deviceCheckSchema, deviceSchema, pipeSchema, coil } from "./devices-schema.ts";
import { policySchema, policyOverrideSchema } from "./policy-schema.ts";

/**
 * The site file: Presa's open format for one site. Strict everywhere, so an unknown key is an error that names its
 * path. All quantities carry their unit in the key. Contracts here change only by adding.
 */
const date = dateSchema;
const localMinute = localMinuteSchema;
const wallTime = clockSchema;

/** Names of what is kept beside the file: photos, sketches, papers. Their contents are not in it. */
const files = z
  .array(z.strictObject({ id, name, about: text.optional() }))
  .max(1000)
  .optional();
/** What someone wrote and kept about an element: what it is, and what to know of it. */
const words = { description: text.optional(), notes: longText.optional(), files };

export const sourceSchema = z.strictObject({
  id,
  name,
  ...words,
  kind: z.enum(["municipal", "well", "pond", "reclaimed", "tank"]),
  priority: z.number().int().min(0).max(1000).optional(),
  enabled: z.boolean().optional(),
  yieldLpm: flow.optional(),
  staticPressureKpa: kPa.optional(),
  /** Level at which that pressure is read; of a well or pond, the water's surface. */
  elevationM: elevation.optional(),
  potable: z.boolean().optional(),
  pressureDropKpaAt: z.strictObject({ flowLpm: positiveFlow, dropKpa: kPa }).optional(),
  hours: z.array(windowSchema).max(100).optional(),
  monthlyBudgetM3: z.array(z.number().min(0).max(1e9)).length(12).optional(),
  /** Of a month's water, in the site's currency; what is over a step by that step's price. */
  price: z
    .strictObject({
      perM3: price,
      steps: z
        .array(z.strictObject({ overM3: z.number().gt(0).max(1e9), perM3: price }))
        .max(20)
        .optional(),
    })
    .optional(),
});

export const pocSchema = z.strictObject({
  id,
  name,
  ...words,
  /** False: as if it were not there. */
  enabled: z.boolean().optional(),
  policy: policyOverrideSchema.optional(),
  sourceIds: z.array(id).max(100),
  elevationM: elevation.optional(),
  ceilingLpm: flow.optional(),
  ceilingReason: text.optional(),
  burstLimitLpm: flow.optional(),
  burstPersistenceS: seconds.optional(),
  offScheduleLimitLpm: flow.optional(),
  offSchedulePersistenceS: seconds.optional(),
  offScheduleResponse: responseSchema.optional(),
  burstResponse: responseSchema.optional(),
  handWatering: z
    .array(z.strictObject({ window: windowSchema, flowLpm: flow }))
    .max(100)
    .optional(),
  devices: z.array(deviceSchema).max(200),
  lockedOut: z.boolean().optional(),
  approvedSeparation: text.optional(),
});

export const mainlineSchema = z.strictObject({
  id,
  name,
  ...words,
  /** False: as if it were not there. */
  enabled: z.boolean().optional(),
  policy: policyOverrideSchema.optional(),
  feedIds: z.array(id).max(100),
  ceilingLpm: flow.optional(),
  ceilingReason: text.optional(),
  pipes: z.array(pipeSchema).max(500),
  fillS: seconds.optional(),
  holdOffS: seconds.optional(),
  elevationM: elevation.optional(),
  /** Where it leaves the mainline that feeds it, from that one's beginning; absent: at its end. */
  feedAtM: z.number().min(0).max(100_000).optional(),
  devices: z.array(deviceSchema).max(200).optional(),
  lockedOut: z.boolean().optional(),
});

export const controllerSchema = z.strictObject({
  id,
  name,
  ...words,
  maxStations: z.number().int().min(1).max(10_000).optional(),
  maxStationsAtOnce: z.number().int().min(1).max(10_000).optional(),
  maxPrograms: z.number().int().min(1).max(1000).optional(),
  maxStartsPerProgram: z.number().int().min(1).max(1000).optional(),
  powered: z.enum(["mains", "battery"]),
  off: z.boolean().optional(),
  budgetMa: z.number().min(0).max(1_000_000).optional(),
  profileId: z.string().max(80).optional(),
  unlinkedShare: z.number().min(0).max(1).optional(),
  /** It shares no dispatch with the others; then it needs a share, or hours of its own. */
  unlinked: z.boolean().optional(),
  unlinkedHours: z.array(windowSchema).max(100).optional(),
  wirePaths: z
    .array(z.strictObject({ id, name, kind: z.enum(["terminals", "twoWire"]) }))
    .max(200)
    .optional(),
});

const cycleSchema = z.union([
  z.strictObject({ longestMin: z.number().gt(0).max(1440) }),
  z.strictObject({ count: z.number().int().min(1).max(100) }),
]);
const soak = z.number().min(0).max(1440);

export const stationSchema = z.strictObject({
  id,
  number: z.number().int().min(0).max(100_000),
  name,
  ...words,
  controllerId: id,
  mainlineId: id,
  planting: z.enum(["turf", "shrub", "tree", "bed", "new"]).optional(),
  emitter: z.enum(["spray", "rotor", "drip", "bubbler", "other"]).optional(),
  elevationM: elevation.optional(),
  requiredKpa: kPa.optional(),
  designFlowLpm: flow.optional(),
  enteredFlowLpm: flow.optional(),
  learned: z
    .strictObject({
      meanLpm: flow,
      sdLpm: flow,
      at: instant,
      /** How it was found, and marks of what it rests on (core/learn/basis.ts). */
      how: z.enum(["bench", "readings", "list", "stopwatch", "controller", "nights"]).optional(),
      companionIds: z.array(id).max(100).optional(),
      basis: z
        .strictObject({
          sensor: z.string().max(20),
          mainline: z.string().max(20),
          pressure: z.string().max(20),
          station: z.string().max(20),
        })
        .optional(),
    })
    .optional(),
  expectedFrom: z.enum(["learned", "entered", "design"]).optional(),
  /** Since when it uses that figure; the server enters it. */
  expectedSince: instant.optional(),
  /** When it was last repaired: what was learned before is stale. */
  repairedAt: instant.optional(),
  holdOffS: seconds.optional(),
  solenoidMa: z.number().min(0).max(100_000).optional(),
  areaM2: z.number().min(0).max(10_000_000).optional(),
  /** What its design flow is worked from: outlets × flow of one. */
  emitters: z.strictObject({ count: z.number().min(0).max(1_000_000), lpmEach: flow }).optional(),
  address: z.string().max(80).optional(),
  wirePathId: id.optional(),
  serial: z.string().max(80).optional(),
  coil: coil.optional(),
  /** Where its lateral leaves the mainline, from the main's beginning; absent: stations are spread evenly along it. */
  alongM: z.number().min(0).max(100_000).optional(),
  cycle: cycleSchema.optional(),
  soakMin: soak.optional(),
  monitored: z.boolean().optional(),
  usesMasterValve: z.boolean().optional(),
  usesPump: z.boolean().optional(),
  ignoresInputs: z.array(id).max(100).optional(),
  highPercent: percent.optional(),
  lowPercent: z.number().min(0).max(100).optional(),
  lockedOut: z.boolean().optional(),
});

export const programSchema = z.strictObject({
  id,
  name,
  ...words,
  controllerId: id,
  enabled: z.boolean().optional(),
  priority: z.number().int().min(0).max(1000).optional(),
  /** Times of day; a start may be switched off and kept. */
  starts: z.array(z.union([wallTime, z.strictObject({ at: wallTime, off: z.boolean().optional() })])).max(100),
  days: daysSchema,
  from: date.optional(),
  until: date.optional(),
  /** Off until that day (it waters again that day), or with no end. */
  holdUntil: z.union([z.literal("indefinite"), date]).optional(),
  windows: z.array(windowSchema).max(100).optional(),
  closedHours: z.array(windowSchema).max(100).optional(),
  seasonalPercent: percent.optional(),
  monthlyPercent: z.array(percent).length(12).optional(),
  /** Of its stations that have none of their own, each for itself. */
  cycle: cycleSchema.optional(),
  soakMin: soak.optional(),
  maxStationsAtOnce: z.number().int().min(1).max(10_000).optional(),
  delayS: seconds.optional(),
  /** Starts or pauses the program while an input's reading is beyond a limit; stations that ignore the input water on. */
  onInputs: z
    .array(
      z.strictObject({
        inputId: id,
        does: z.enum(["start", "pause"]),
        when: z.enum(["above", "below"]),
        limit: z.number().min(-1e4).max(1e4),
      }),
    )
    .max(20)
    .optional(),
  dispatch: z.enum(["fill", "strict"]).optional(),
  runs: z.array(z.strictObject({ stationId: id, minutes: z.number().min(0).max(1440) })).max(10_000),
});

export const siteFileSchema = z.strictObject({
  format: z.literal("presa-site"),
  version: z.literal(1),
  site: z.strictObject({
    id,
    name,
    timeZone: timeZoneSchema,
    units: z.enum(["us", "metric"]),
    latitudeDeg: z.number().min(-90).max(90).optional(),
    longitudeDeg: z.number().min(-180).max(180).optional(),
    currency: currency.optional(),
    ...words,
    maxStationsAtOnce: z.number().int().min(1).max(10_000).optional(),
    seasonalPercent: percent.optional(),
    /** What the weather makes of single days, %, and whether that is bypassed; a rain stop is apart (`weatherInputs`). */
    weatherPercents: z.array(z.strictObject({ date, percent })).max(4000).optional(),
    weatherPercentBypassed: z.boolean().optional(),
    holdUntil: z.union([z.literal("indefinite"), date]).optional(),
  }),
  sources: z.array(sourceSchema).max(1000),
  pocs: z.array(pocSchema).max(1000),
  mainlines: z.array(mainlineSchema).max(1000),
  controllers: z.array(controllerSchema).max(1000),
  stations: z.array(stationSchema).max(10_000),
  programs: z.array(programSchema).max(1000),
  policy: policySchema,
  /** What sets of stations use together ÷ the sum of their parts, as learned; used when judging exactly that set. */
  setRatios: z
    .array(
      z.strictObject({
        stationIds: z.array(id).min(2).max(1000),
        ratio: z.number().gt(0).max(10),
        meanLpm: flow,
        sdLpm: flow,
        partsLpm: flow,
        at: instant,
      }),
    )
    .max(5000)
    .optional(),
  weatherInputs: z
    .array(
      z.strictObject({
        id,
        name,
        kind: z.enum(["rain", "wind", "freeze", "moisture", "temperature", "switch"]),
        bypassed: z.boolean().optional(),
        /** Simulated: rain mm, wind m/s, freeze and temperature °C, moisture %, a switch 0 or 1. Each holds until the next, at most a day. */
        readings: z
          .array(z.strictObject({ at: localMinute, value: z.number().min(-1e4).max(1e4) }))
          .max(4000)
          .optional(),
      }),
    )
    .max(100)
    .optional(),
  /** Where things stand on the drawing, in drawing units; what is not named is placed by itself. */
  positions: z
    .array(z.strictObject({ id, x: z.number().min(-1e6).max(1e6), y: z.number().min(-1e6).max(1e6) }))
    .max(10_000)
    .optional(),
  /** Of the site as a whole. */
  files,
  /** Plans and sketches of the site: pictures kept beside the file under these ids, and where on them its pieces are, from the upper left corner in parts of width and height. */
  plans: z
    .array(
      z.strictObject({
        id,
        name,
        pins: z.array(z.strictObject({ id, x: z.number().min(0).max(1), y: z.number().min(0).max(1) })).max(10_000),
      }),
    )
    .max(100)
    .optional(),
  /** Decoders scanned or pasted, by serial number, that drive nothing yet. */
  tray: z
    .array(z.strictObject({ serial: z.string().min(1).max(80), outputs: z.number().int().min(1).max(64).optional() }))
    .max(10_000)
    .optional(),
  /** Readings on wires and coils; the server enters who and when. */
  wireReadings: z
    .array(
      z.strictObject({
        id,
        subjectId: id,
        where: z.enum(["coil", "controller"]).optional(),
        ohm: z.number().min(0).max(1e9),
        at: instant,
        by: name,
        note: text.optional(),
      }),
    )
    .max(20_000)
    .optional(),
  wireThresholds: z
    .strictObject({
      shortUnderOhm: z.number().min(0).max(1e6),
      highOverOhm: z.number().min(0).max(1e6),
      openOverOhm: z.number().min(0).max(1e9),
      latchingShortUnderOhm: z.number().min(0).max(1e6),
      latchingHighOverOhm: z.number().min(0).max(1e6),
      runOverOhm: z.number().min(0).max(1e6),
    })
    .partial()
    .optional(),
});

export type SiteFile = z.infer<typeof siteFileSchema>;
export type Source = SiteFile["sources"][number];
export type Poc = SiteFile["pocs"][number];
export type Device = Poc["devices"][number];
export type DeviceOf<K extends Device["kind"]> = Extract<Device, { kind: K }>;
export type Pipe = DeviceOf<"pipe">;
export type FlowSensor = DeviceOf<"flowSensor">;
export type Mainline = SiteFile["mainlines"][number];
export type Controller = SiteFile["controllers"][number];
export type Station = SiteFile["stations"][number];
export type Program = SiteFile["programs"][number];
export type Policy = SiteFile["policy"];
export type WaterWindow = z.infer<typeof windowSchema>;
export type WirePath = NonNullable<Controller["wirePaths"]>[number];
export type DeviceCheck = z.infer<typeof deviceCheckSchema>;
export type Proving = NonNullable<FlowSensor["provings"]>[number];
export type WireReading = NonNullable<SiteFile["wireReadings"]>[number];
export type Response = z.infer<typeof responseSchema>;
