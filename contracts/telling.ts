import { z } from "zod";
import { clockSchema, timeZoneSchema } from "../core/dates/date-schema.ts";

/** What somebody wants to be told by mail. Clocks in their time zone; from and to alike: all day. */
export const tellingChoice = z.strictObject({
  alarms: z.boolean(),
  overdue: z.boolean(),
  fromClock: clockSchema,
  toClock: clockSchema,
  /** Null: no summary in the morning. */
  morningClock: clockSchema.nullable(),
  /** Told, at any hour, of an alarm that nobody acknowledged within so many minutes; null: not. */
  escalateMin: z.int().min(1, "is at least a minute").max(1440, "is at most a day").nullable(),
  timeZone: timeZoneSchema,
  /** Of sites in any of these groups; none: of all that they see. */
  groups: z.array(z.guid()).max(200),
});
export type TellingChoice = z.infer<typeof tellingChoice>;

export const LETTER_STATES = ["waiting", "sending", "sent", "failed", "unsure"] as const;
export type LetterState = (typeof LETTER_STATES)[number];
export type LetterView = {
  id: string;
  to: string;
  subject: string;
  madeAt: string;
  state: LetterState;
  tries: number;
  problem: string | null;
};
/** @property mail whether a mail server is set up at all. @property letters the newest to this person */
export type TellingView = { mail: boolean; choice: TellingChoice | null; letters: LetterView[] };

export const webhookRequest = z.strictObject({
  url: z.url({ protocol: /^https?$/, error: "Write the whole address, beginning with https://." }).max(500),
});
export const webhookChange = z.strictObject({ action: z.enum(["on", "off", "trial", "again"]) });
export type WebhookAction = z.infer<typeof webhookChange>["action"];
export type WebhookCallView = {
  id: string;
  event: string;
  madeAt: string;
  state: "waiting" | "done" | "failed";
  tries: number;
  nextAt: string;
  status: number | null;
  problem: string | null;
};
export type WebhookView = { id: string; url: string; enabled: boolean; madeBy: string; calls: WebhookCallView[] };
/** What is told to people and to other systems. @property stuck letters of anybody that were not sent. @property secret of one that was just made: told once */
export type ToldView = { mail: boolean; stuck: LetterView[]; webhooks: WebhookView[]; secret?: string };
