/** What is known of a controller at the other end. Instants in ISO. */
export type KnownController = {
  speaks: "none" | "listenOnly" | "orders";
  state: "waiting" | "live" | "silent" | "unreachable" | null;
  heardAt: string | null;
  /** Settings that differ and that nobody noted; null where it was never read back. */
  differs: number | null;
  /** Of them those that somebody set at the controller. */
  byHand: number;
  /** How far its clock is ahead, s. */
  clockOffS: number;
  send: { state: string; reason: string | null } | null;
};

export type ControllerFinding =
  | { code: "silent"; minutes: number | null }
  | { code: "setThere"; settings: number }
  | { code: "clock"; s: number }
  | { code: "refused"; reason: string | null }
  | { code: "partly" }
  | { code: "differs"; settings: number };

/** A gateway speaks every few seconds: one that was not heard for so long is a finding. */
const SILENT_MIN = 15;
/** A clock that is off by less is right: a gateway's word takes its time. */
export const CLOCK_OFF_S = 90;

/**
 * What somebody has to look at, at a controller (handbook#11-controllers), the worst first.
 *
 * @param now epoch milliseconds
 */
export function controllerFindings(c: KnownController, now: number): ControllerFinding[] {
  if (c.speaks !== "orders") return [];
  const found: ControllerFinding[] = [];
  const silentMin = c.heardAt === null ? null : (now - Date.parse(c.heardAt)) / 60_000;
  if (c.state !== "live" && (silentMin === null || silentMin > SILENT_MIN))
    found.push({ code: "silent", minutes: silentMin });
  if (c.byHand > 0) found.push({ code: "setThere", settings: c.byHand });
  if (Math.abs(c.clockOffS) > CLOCK_OFF_S) found.push({ code: "clock", s: c.clockOffS });
  if (c.send?.state === "failed") found.push({ code: "refused", reason: c.send.reason });
  if (c.send?.state === "partly" && c.differs !== 0) found.push({ code: "partly" });
  const ours = (c.differs ?? 0) - c.byHand;
  if (ours > 0) found.push({ code: "differs", settings: ours });
  return found;
}

const many = (n: number, one: string): string => `${n} ${one}${n === 1 ? "" : "s"}`;

/** How long something has lasted, in words. */
export function lasted(minutes: number): string {
  if (minutes < 120) return `${Math.round(minutes)} min`;
  return minutes < 2880 ? `${Math.round(minutes / 60)} h` : `${Math.round(minutes / 1440)} days`;
}

/** A finding at a controller, in words. */
export function controllerFindingWords(f: ControllerFinding): string {
  switch (f.code) {
    case "silent":
      return f.minutes === null ? "never heard" : `silent for ${lasted(f.minutes)}`;
    case "setThere":
      return `someone changed ${many(f.settings, "setting")} at the controller`;
    case "clock":
      return `clock ${Math.round(Math.abs(f.s) / 60)} min ${f.s > 0 ? "ahead" : "behind"}`;
    case "refused":
      return `refused what was sent${f.reason ? `: ${f.reason}` : ""}`;
    case "partly":
      return "took what was sent only in part";
    case "differs":
      return `${many(f.settings, "setting")} not as in Presa`;
  }
}
