import { z } from "zod";
import type { TaughtSet } from "../core/judge/taught-sets.ts";
import type { FindingWords } from "../core/reckon/finding-words.ts";
import type { Finding } from "../core/reckon/findings.ts";
import type { ReckonedStation } from "../core/reckon/reckon.ts";

/** Somebody goes there; it is run alone in the coming night; the new figure is taken; it is left as it is. */
export const ANSWERS = ["visit", "alone", "taken", "left"] as const;
export type Answer = (typeof ANSWERS)[number];

export type FindingAnswer = {
  answer: Answer;
  words: string;
  forName: string | null;
  byName: string;
  at: string;
  /** It has grown much since, so that it is asked about again. */
  grown: boolean;
};
/** What nights say has changed, in words, and what was answered. */
export type ToldFinding = Finding & { words: FindingWords; answer: FindingAnswer | null };

/** What a site's nights say on the newest morning. */
export type MorningsStatus = {
  /** The newest night that was read; null where none was. */
  night: string | null;
  /** Whether that night is over. */
  whole: boolean;
  workedAt: string | null;
  source: "gateway" | "log" | null;
  nights: number;
  stretches: number;
  stations: ReckonedStation[];
  found: ToldFinding[];
  neverApart: string[][];
  /** What sets that run together should read. */
  sets: TaughtSet[];
  /** Whom a visit may be given to. */
  people: { id: string; name: string }[];
  /** Why nothing can be run alone through this site's controllers; null where it can. */
  notAlone: string | null;
};

/** A station's estimate on each morning; L/min. */
export type StationMorning = { night: string; nowLpm: number; sdLpm: number };
export type StationMornings = {
  mornings: StationMorning[];
  /** Repairs, learnings and other figures, by when. */
  marks: { at: string; what: "learned" | "repaired" }[];
};

export const logRequest = z.strictObject({ text: z.string().min(1).max(8_000_000) });
export type LogTaken = { nights: string[]; found: number };

export const findingAnswerRequest = z
  .strictObject({
    findingId: z.string().min(1).max(300),
    answer: z.enum(ANSWERS),
    words: z.string().max(2000).default(""),
    forUser: z.uuid().optional(),
    /** The order's, where it is run alone: the same asked again is one. */
    orderId: z.uuid().optional(),
    /** When it is run alone, as instants. */
    from: z.iso.datetime({ offset: true }).optional(),
    to: z.iso.datetime({ offset: true }).optional(),
  })
  .refine((r) => r.answer !== "left" || r.words.trim() !== "", "Say why it is left as it is.")
  .refine((r) => r.answer !== "alone" || r.orderId !== undefined, "An order has to have its id.");
export type FindingAnswerRequest = z.infer<typeof findingAnswerRequest>;
