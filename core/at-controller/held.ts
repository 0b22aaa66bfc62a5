import { type EpochS, localIso } from "../dates/wall-time.ts";
import type { Order } from "../field/orders.ts";
import type { KeptProfile } from "../profiles/profile.ts";
import { withSettings } from "../settings/with-settings.ts";
import type { ControllerSettings } from "../settings/settings-of.ts";
import type { Program, SiteFile, WaterWindow } from "../site-file/schema.ts";

/** What one controller holds of its own: it outlives a loss of power. */
export type Held = {
  controllerId: string;
  settings: ControllerSettings;
  /** Of the last send that it took; 0: none. */
  number: number;
  /** When somebody last changed it at the controller itself, ISO instant. */
  byHandAt: string | null;
  /** How far its clock is ahead, s. */
  clockOffS: number;
  /** What it can do; null: everything. */
  profile: KeptProfile | null;
};
/** An order that was taken, and the second in which it was carried out. */
export type Ordered = { id: string; at: EpochS; by: string; what: Order };

/** The programs that stand for what is run by hand: many at once, and one at a time. */
export const handProgram = (controllerId: string): string => `by-hand ${controllerId}`;
export const walkProgram = (controllerId: string): string => `walk ${controllerId}`;

/**
 * The site that the controllers of a place would run: what they hold, by the clocks they have, with room for what is asked of them by hand.
 *
 * @param ordered hand watering among them opens its connection for as long as was asked
 */
export function siteRun(
  ground: SiteFile,
  held: readonly Held[],
  lockouts: readonly string[],
  ordered: readonly Ordered[] = [],
): SiteFile {
  const site = withSettings(
    ground,
    held.map((h) => byItsClock(h)),
    lockouts,
  );
  const most = new Map(held.map((h) => [h.controllerId, h.profile?.atOnce ?? Number.POSITIVE_INFINITY]));
  return {
    ...site,
    controllers: site.controllers.map((c) => {
      const own = Math.min(c.maxStationsAtOnce ?? Number.POSITIVE_INFINITY, most.get(c.id) ?? Number.POSITIVE_INFINITY);
      return Number.isFinite(own) ? { ...c, maxStationsAtOnce: own } : c;
    }),
    pocs: site.pocs.map((p) => {
      const byHand = ordered.flatMap((o) =>
        o.what.kind === "hand" && o.what.pocId === p.id
          ? [{ window: windowFrom(site.site.timeZone, o.at, o.what.minutes), flowLpm: o.what.flowLpm }]
          : [],
      );
      return byHand.length > 0 ? { ...p, handWatering: [...(p.handWatering ?? []), ...byHand] } : p;
    }),
    programs: [...site.programs, ...held.flatMap((h) => ownPrograms(h))],
  };
}

function ownPrograms({ controllerId, settings }: Held): Program[] {
  const program = (id: string, name: string, maxStationsAtOnce: number): Program => ({
    id,
    name,
    controllerId,
    starts: [],
    days: { type: "weekdays", days: ["mon", "tue", "wed", "thu", "fri", "sat", "sun"] },
    maxStationsAtOnce,
    runs: [],
  });
  const atOnce = settings.controllers[0]?.maxStationsAtOnce ?? 200;
  return [program(handProgram(controllerId), "By hand", atOnce), program(walkProgram(controllerId), "Walk", 1)];
}

/** From the next full minute on, for so many. */
function windowFrom(timeZone: string, at: EpochS, minutes: number): WaterWindow {
  const from = (Math.floor(at / 60) + 1) * 60;
  const clock = (t: EpochS): string => localIso(timeZone, t).slice(11, 16);
  return { from: clock(from), to: clock(from + Math.max(1, Math.round(minutes)) * 60) };
}

/** A controller whose clock is ahead starts that much too early. Its day turns at the site's midnight all the same. */
function byItsClock({ settings, clockOffS }: Held): ControllerSettings {
  const ahead = Math.round(clockOffS / 60);
  if (ahead === 0) return settings;
  const clock = (hhmm: string): string => {
    const minute = (Number(hhmm.slice(0, 2)) * 60 + Number(hhmm.slice(3, 5)) - ahead + 14_400) % 1440;
    return `${String(Math.floor(minute / 60)).padStart(2, "0")}:${String(minute % 60).padStart(2, "0")}`;
  };
  const window = <W extends { from: string; to: string }>(w: W): W => ({ ...w, from: clock(w.from), to: clock(w.to) });
  return {
    ...settings,
    programs: settings.programs.map((p) => ({
      ...p,
      starts: p.starts.map((s) => (typeof s === "string" ? clock(s) : { ...s, at: clock(s.at) })),
      ...(p.windows ? { windows: p.windows.map(window) } : {}),
      ...(p.closedHours ? { closedHours: p.closedHours.map(window) } : {}),
    })),
  };
}

/** Settings with every program off until that date, with no end, or on again. */
export function withHold(settings: ControllerSettings, until: string | null): ControllerSettings {
  const { holdUntil: _, ...site } = settings.site;
  const controllers = settings.controllers.map(({ off: __, ...c }) => c);
  return { ...settings, site: until === null ? site : { ...site, holdUntil: until }, controllers };
}
