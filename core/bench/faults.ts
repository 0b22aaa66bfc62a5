import { z } from "zod";
import { type EpochS, instantOf } from "../calendar/wall-time.ts";
import { expectedFlow } from "../site-file/expected-flow.ts";
import { type FileProblem, pathText } from "../site-file/parse-site.ts";
import type { SiteFile, Station } from "../site-file/schema.ts";

export const FAULT_KINDS = [
  "brokenOutlet",
  "brokenLateral",
  "mainlineBreak",
  "stuckOpen",
  "stuckClosed",
  "clogged",
  "supplyClosed",
  "pumpFailed",
  "sensorDead",
  "sensorNoise",
  "wrongK",
  "masterValveStuckOpen",
  "handWatering",
  "pressureDrop",
  "wrongValve",
  "alsoOpens",
] as const;
export type FaultKind = (typeof FAULT_KINDS)[number];

const when = z
  .string()
  .regex(
    /^(\+\d{1,7}|([01]\d|2[0-3]):[0-5]\d:[0-5]\d)$/,
    "is neither HH:MM:SS on the date nor +SECONDS from the first start",
  );
export const faultsSchema = z
  .array(
    z.strictObject({
      at: when,
      until: when.optional(),
      kind: z.enum(FAULT_KINDS),
      subjectId: z.string(),
      size: z.number().min(0).max(1_000_000).optional(),
      otherId: z.string().optional(),
    }),
  )
  .max(1000);
export type FaultRequest = z.infer<typeof faultsSchema>[number];
export type Fault = {
  from: EpochS;
  to: EpochS;
  kind: FaultKind;
  subjectId: string;
  size: number /** The other station of a wiring fault. */;
  otherId?: string;
};

/** Litres a minute from one broken outlet, by emitter (handbook 8). */
export const BROKEN_OUTLET_LPM: Record<NonNullable<Station["emitter"]>, number> = {
  spray: 15,
  rotor: 45,
  drip: 8,
  bubbler: 12,
  other: 15,
};
export const BROKEN_LATERAL_SHARE = 0.6;

type SubjectKind = "station" | "source" | "poc" | "mainline" | "pump" | "flowSensor" | "masterValve";
const SUBJECTS: Record<FaultKind, SubjectKind[]> = {
  brokenOutlet: ["station"],
  brokenLateral: ["station"],
  stuckOpen: ["station"],
  stuckClosed: ["station"],
  clogged: ["station"],
  wrongValve: ["station"],
  alsoOpens: ["station"],
  mainlineBreak: ["mainline", "poc"],
  handWatering: ["mainline", "poc"],
  supplyClosed: ["source", "poc"],
  pressureDrop: ["source", "poc"],
  pumpFailed: ["pump"],
  sensorDead: ["flowSensor"],
  sensorNoise: ["flowSensor"],
  wrongK: ["flowSensor"],
  masterValveStuckOpen: ["masterValve"],
};

/** What a fault may be dropped on. */
export function faultSubjects(site: SiteFile, kind: FaultKind): { id: string; label: string }[] {
  const wanted = SUBJECTS[kind];
  const devices = [
    ...site.pocs.flatMap((p) => p.devices.map((d) => ({ d, at: p.name }))),
    ...site.mainlines.flatMap((m) => (m.devices ?? []).map((d) => ({ d, at: m.name }))),
  ];
  return [
    ...(wanted.includes("station") ? site.stations.map((s) => ({ id: s.id, label: `${s.number} ${s.name}` })) : []),
    ...(wanted.includes("source") ? site.sources.map((s) => ({ id: s.id, label: s.name })) : []),
    ...(wanted.includes("mainline") ? site.mainlines.map((m) => ({ id: m.id, label: m.name })) : []),
    ...(wanted.includes("poc") ? site.pocs.map((p) => ({ id: p.id, label: p.name })) : []),
    ...devices
      .filter(({ d }) => (wanted as string[]).includes(d.kind))
      .map(({ d, at }) => ({ id: d.id, label: `${d.name ?? d.id} at ${at}` })),
  ];
}

/**
 * Faults as asked → faults with instants and sizes. `+SECONDS` counts from `firstStart`; a fault without an end lasts.
 * Sizes: L/min, a share for clogged, a factor for wrongK, kPa for pressureDrop.
 */
export function resolveFaults(
  site: SiteFile,
  value: unknown,
  date: string,
  firstStart: EpochS,
): { ok: true; faults: Fault[] } | { ok: false; problem: FileProblem } {
  const parsed = faultsSchema.safeParse(value);
  if (!parsed.success) {
    const issue = parsed.error.issues[0];
    const path = `faults${pathText(issue?.path ?? [])}`;
    return { ok: false, problem: { code: "shape", path, message: `${path}: ${issue?.message ?? "is not right"}` } };
  }
  const faults: Fault[] = [];
  for (const [i, f] of parsed.data.entries()) {
    if (!faultSubjects(site, f.kind).some((s) => s.id === f.subjectId))
      return {
        ok: false,
        problem: {
          code: "unknownReference",
          path: `faults[${i}].subjectId`,
          message: `faults[${i}]: ${f.kind} belongs on a ${SUBJECTS[f.kind].join(" or ")}, and "${f.subjectId}" is none on this site.`,
        },
      };
    const instant = (text: string): EpochS =>
      text.startsWith("+")
        ? firstStart + Number(text.slice(1))
        : instantOf(site.site.timeZone, date, text.slice(0, 5)) + Number(text.slice(6));
    const from = instant(f.at);
    const to = f.until === undefined ? Number.POSITIVE_INFINITY : instant(f.until);
    const wiring = f.kind === "wrongValve" || f.kind === "alsoOpens";
    if (wiring && (f.otherId === f.subjectId || !site.stations.some((s) => s.id === f.otherId)))
      return {
        ok: false,
        problem: {
          code: "unknownReference",
          path: `faults[${i}].otherId`,
          message: `faults[${i}]: ${f.kind} needs otherId, another station whose valve opens.`,
        },
      };
    faults.push({
      from,
      to,
      kind: f.kind,
      subjectId: f.subjectId,
      size: f.size ?? usualSize(site, f),
      ...(wiring && f.otherId !== undefined ? { otherId: f.otherId } : {}),
    });
  }
  return { ok: true, faults };
}

function usualSize(site: SiteFile, fault: FaultRequest): number {
  const station = site.stations.find((s) => s.id === fault.subjectId);
  const expected = station ? (expectedFlow(station)?.lpm ?? 0) : 0;
  switch (fault.kind) {
    case "brokenOutlet":
      return BROKEN_OUTLET_LPM[station?.emitter ?? "other"];
    case "brokenLateral":
      return BROKEN_LATERAL_SHARE * expected;
    case "mainlineBreak":
      return 200;
    case "clogged":
      return 0.4;
    case "sensorNoise":
      return 20;
    case "wrongK":
      return 1.3;
    case "handWatering":
      return 40;
    case "pressureDrop":
      return 150;
    case "stuckOpen":
    case "stuckClosed":
    case "supplyClosed":
    case "pumpFailed":
    case "sensorDead":
    case "masterValveStuckOpen":
    case "wrongValve":
    case "alsoOpens":
      return 0;
  }
}
