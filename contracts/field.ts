import type { TraceRow } from "../core/bench/simulate.ts";
import type { StateMessage } from "../core/field/messages.ts";

/** How a site's gateway stands, and the last half hour of it. */
export type FieldStatus = {
  gateway: {
    url: string;
    topic: string;
    state: "waiting" | "live" | "silent" | "unreachable";
    heardAt: string | null;
    says: StateMessage | null;
  } | null;
  stream: { readings: number; events: number; repeats: number; lost: number; lastAt: string | null } | null;
  /** The last half hour, read against expected and limits, oldest first. */
  rows: TraceRow[];
  open: string[];
  events: { at: string; type: string; subjectId: string; reason: string }[];
};
