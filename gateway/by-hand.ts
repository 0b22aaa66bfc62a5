import { z } from "zod";
import { clockSchema } from "../core/dates/date-schema.ts";
import { daysSchema } from "../core/dates/day-rules.ts";
import type { Held } from "../core/at-controller/held.ts";
import { profileSchema } from "../core/profiles/profile.ts";
import { parseSite } from "../core/site-file/parse-site.ts";
import type { Program } from "../core/site-file/schema.ts";

const controllerId = z.string().min(1).max(80);
const programId = z.string().min(1).max(80);

/** What someone can do who stands at a simulated controller, or what is wrong with it: nobody asks Presa. */
export const handChange = z.discriminatedUnion("what", [
  z.strictObject({ what: z.literal("starts"), controllerId, programId, starts: z.array(clockSchema).max(20) }),
  z.strictObject({
    what: z.literal("minutes"),
    controllerId,
    programId,
    stationId: z.string().min(1).max(80),
    minutes: z.number().min(0).max(1440),
  }),
  z.strictObject({ what: z.literal("days"), controllerId, programId, days: daysSchema }),
  z.strictObject({ what: z.literal("enabled"), controllerId, programId, on: z.boolean() }),
  z.strictObject({ what: z.literal("percent"), controllerId, percent: z.number().min(0).max(1000) }),
  /** How far its clock is ahead, min; behind below 0. */
  z.strictObject({ what: z.literal("clock"), controllerId, minutes: z.number().min(-10_000).max(10_000) }),
  /** Without power for so long: what runs ends, and its clock stands meanwhile. */
  z.strictObject({ what: z.literal("power"), controllerId, minutes: z.number().min(0).max(10_000) }),
  /** What this controller can do; null: everything. */
  z.strictObject({
    what: z.literal("profile"),
    controllerId,
    profile: profileSchema.and(z.object({ id: z.string().max(80) })).nullable(),
  }),
  z.strictObject({ what: z.literal("clear"), id: z.string().min(1).max(80) }),
  z.strictObject({ what: z.literal("silent"), on: z.boolean() }),
]);
export type HandChange = z.infer<typeof handChange>;

/** The controllers of a site, as they stand before someone. */
export type AtHand = {
  setByHand: (controllerId: string, change: (h: Held) => Held) => void;
  losePower: (controllerId: string, minutes: number) => void;
  clearByHand: (id: string) => void;
  setSilent: (silent: boolean) => void;
};

/**
 * Does it at the controllers of a site.
 *
 * @throws in words, where it cannot be
 */
export function doByHand(site: AtHand, change: HandChange): void {
  switch (change.what) {
    case "clear":
      site.clearByHand(change.id);
      return;
    case "silent":
      site.setSilent(change.on);
      return;
    case "power":
      site.losePower(change.controllerId, change.minutes);
      return;
    default:
      site.setByHand(change.controllerId, (h) => changed(h, change));
  }
}

type Setting = Exclude<HandChange, { what: "clear" | "silent" | "power" }>;

function changed(h: Held, change: Setting): Held {
  switch (change.what) {
    case "clock":
      return { ...h, clockOffS: Math.round(change.minutes * 60) };
    case "profile":
      return { ...h, profile: change.profile };
    case "percent":
      return checked({
        ...h,
        settings: { ...h.settings, site: { ...h.settings.site, seasonalPercent: change.percent } },
      });
    case "starts":
      return withProgram(h, change.programId, (p) => ({ ...p, starts: change.starts }));
    case "days":
      return withProgram(h, change.programId, (p) => ({ ...p, days: change.days }));
    case "enabled":
      return withProgram(h, change.programId, (p) => ({ ...p, enabled: change.on }));
    case "minutes":
      return withProgram(h, change.programId, (p) => ({
        ...p,
        runs: p.runs.some((r) => r.stationId === change.stationId)
          ? p.runs.map((r) => (r.stationId === change.stationId ? { ...r, minutes: change.minutes } : r))
          : [...p.runs, { stationId: change.stationId, minutes: change.minutes }],
      }));
  }
}

function withProgram(h: Held, id: string, change: (p: Program) => Program): Held {
  if (!h.settings.programs.some((p) => p.id === id)) throw new Error("This controller holds no such program.");
  return checked({
    ...h,
    settings: { ...h.settings, programs: h.settings.programs.map((p) => (p.id === id ? change(p) : p)) },
  });
}

function checked(h: Held): Held {
  const parsed = parseSite(h.settings);
  if (!parsed.ok) throw new Error(parsed.problems[0]?.message ?? "That cannot be set.");
  return h;
}
