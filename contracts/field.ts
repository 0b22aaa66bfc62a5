import type { TraceRow } from "../core/bench/simulate.ts";
import type { StateMessage } from "../core/field/messages.ts";

/** How a site's gateway stands, and the last half hour of it. */
export type FieldStatus = {
  /** Where gateways find the broker; null where none is set up. */
  broker: string | null;
  gateway: {
    account: string;
    state: "waiting" | "live" | "silent" | "unreachable";
    heardAt: string | null;
    says: StateMessage | null;
  } | null;
  stream: {
    readings: number;
    events: number;
    repeats: number;
    lost: number;
    refused: number;
    lastAt: string | null;
  } | null;
  /** The last half hour, read against expected and limits, oldest first. */
  rows: TraceRow[];
  open: string[];
  events: { at: string; type: string; subjectId: string; reason: string }[];
};

/** What a gateway signs in to the broker with. It is told once. */
export type GatewayKey = { broker: string; account: string; password: string };
