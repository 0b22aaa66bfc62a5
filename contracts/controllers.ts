import { z } from "zod";
import { clockSchema } from "../core/dates/date-schema.ts";
import { type Order, orderSchema, type TakenMessage } from "../core/field/orders.ts";
import { WHICH_TO_LEARN } from "../core/learn/to-learn.ts";
import type { SettingDifference } from "../core/settings/compare.ts";
import { id as elementId } from "../core/site-file/basics-schema.ts";

export type SendState = "waiting" | "sent" | "taken" | "partly" | "failed" | "overtaken";
export type Send = {
  id: string;
  controllerId: string;
  number: number;
  version: number;
  state: SendState;
  reason: string | null;
  items: TakenMessage["items"];
  askedByName: string;
  askedAt: string;
  sentAt: string | null;
  answeredAt: string | null;
};

/** A difference, and that somebody chose to leave it as it is. */
export type NotedDifference = SettingDifference & { noted: { words: string; by: string; at: string } | null };
export type ControllerStatus = {
  id: string;
  name: string;
  /** What it holds, as it said last; null where it never said. */
  read: {
    at: string;
    number: number;
    byHandAt: string | null;
    clockOffS: number;
    lockouts: string[];
    differences: NotedDifference[];
  } | null;
  send: Send | null;
};

export type PlacedOrder = {
  id: string;
  what: Order;
  state: "waiting" | "done" | "refused" | "expired";
  reason: string | null;
  milliamps: Record<string, number> | null;
  askedByName: string;
  askedAt: string;
  expiresAt: string;
  answeredAt: string | null;
};

/** How gateways speak: not at all, listening only (the first version), or taking settings and orders. */
export type Speaks = "none" | "listenOnly" | "orders";
export type ControllersStatus = {
  speaks: Speaks;
  simulated: boolean;
  state: "waiting" | "live" | "silent" | "unreachable" | null;
  heardAt: string | null;
  /** What of its answers could not be read, and what of ours it refused, by why. */
  setAside: { count: number; words: string | null };
  refused: Record<string, number>;
  /** Hour of the nightly read-back, on each site's clock. */
  readBackAt: string;
  controllers: ControllerStatus[];
  sends: Send[];
  orders: PlacedOrder[];
};

/** One controller of one site, for the view over all of them. */
export type ControllerLine = {
  siteId: string;
  siteName: string;
  controllerId: string;
  controllerName: string;
  speaks: Speaks;
  state: ControllersStatus["state"];
  heardAt: string | null;
  readAt: string | null;
  /** Differences that nobody has noted; null where it was never read back. */
  differs: number | null;
  /** Of them those that somebody made at the controller. */
  byHand: number;
  clockOffS: number;
  send: { state: SendState; askedAt: string; reason: string | null } | null;
};

const ids = z.array(elementId).min(1).max(1000);
export const sendRequest = z.strictObject({ version: z.int().min(1), controllerIds: ids });
export const answerRequest = z.discriminatedUnion("answer", [
  /** What the controller holds becomes ours, as a revision. */
  z.strictObject({
    answer: z.literal("take"),
    version: z.int().min(1),
    controllerId: elementId,
    paths: z.array(z.string().max(300)).min(1).max(5000),
  }),
  z.strictObject({
    answer: z.literal("leave"),
    controllerId: elementId,
    paths: z.array(z.string().max(300)).min(1).max(5000),
    words: z.string().trim().min(3, "say why, in three letters at least").max(1000),
  }),
]);
export type AnswerRequest = z.infer<typeof answerRequest>;
/** Sites to send to, each in the revision that was looked at; or to read back. */
export const sendManyRequest = z.strictObject({
  sites: z
    .array(z.strictObject({ siteId: z.uuid(), version: z.int().min(1), controllerIds: ids }))
    .min(1)
    .max(500),
});
export const readManyRequest = z.strictObject({ siteIds: z.array(z.uuid()).min(1).max(500) });
/** Of each of these sites, what could be learned at its controllers. */
export const learnableRequest = z.strictObject({
  sites: z
    .array(z.strictObject({ siteId: z.uuid(), controllerIds: ids }))
    .min(1)
    .max(50),
});
/** How many stations of a site could be learned there; `why` it cannot be asked at all. */
export type Learnable = { siteId: string; stale: number; all: number; refused: number; why: string | null };
/** Learning on many sites: at once, or when an hour comes on each site's own clock; past `to` none is begun. `id` is the order's: the same asked again is one. */
export const learnManyRequest = z.strictObject({
  which: z.enum(WHICH_TO_LEARN),
  hours: z.strictObject({ from: clockSchema, to: clockSchema.optional() }).optional(),
  sites: z
    .array(z.strictObject({ siteId: z.uuid(), controllerIds: ids, id: z.uuid() }))
    .min(1)
    .max(50),
});
export type LearnManyRequest = z.infer<typeof learnManyRequest>;
/** How many sites were asked, and which could not be, each with why. */
export type ManyAsked = { asked: number; not: string[] };
export const readBackHour = z.strictObject({ readBackAt: clockSchema });
export const orderRequest = z.strictObject({
  /** Made by the asker: the same order asked again is one. */
  id: z.uuid(),
  what: orderSchema,
});
export type OrderRequest = z.infer<typeof orderRequest>;
export const learnThereRequest = z.strictObject({
  id: z.uuid(),
  stationIds: z.array(elementId).min(1).max(10_000),
  /** Instants; at once where there is none. */
  from: z.iso.datetime({ offset: true }).optional(),
  to: z.iso.datetime({ offset: true }).optional(),
});
export type LearnThereRequest = z.infer<typeof learnThereRequest>;
