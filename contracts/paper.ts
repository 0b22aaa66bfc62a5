import { z } from "zod";
import { dateSchema } from "../core/dates/date-schema.ts";
import { language } from "./people.ts";

/** Sheets that are made of a site, in the order in which they are offered. */
export const PAPERS = ["setup", "walk", "emergency", "devices", "asBuilt", "water", "alarms"] as const;
export type Paper = (typeof PAPERS)[number];
/** @property dated it tells of a time from a day to a day */
export const PAPER_WORDS: Record<Paper, { title: string; about: string; dated: boolean }> = {
  setup: {
    title: "Setup sheet",
    about: "What someone keys in at each controller: programs, starts, days, hours, holds, and each station's minutes.",
    dated: false,
  },
  walk: {
    title: "Walk list",
    about: "Every station in its order with what it should take, and room to write what was found.",
    dated: false,
  },
  emergency: {
    title: "Emergency card",
    about: "Where the water and the power are shut off by hand, and whom to call.",
    dated: false,
  },
  devices: {
    title: "Device list",
    about: "Everything that is wired or flowed through: where, address, flows, limits and when it was proved.",
    dated: false,
  },
  asBuilt: {
    title: "As-built book",
    about: "The whole site as it stands: drawing, sources, mains, controllers, devices, stations, programs and limits.",
    dated: false,
  },
  water: {
    title: "Water report",
    about: "For the client: what was used, on what, against plan and budget, in plain words.",
    dated: true,
  },
  alarms: {
    title: "Alarms",
    about: "What was found in a time, what it was and what was done about it.",
    dated: true,
  },
};

/** These are the crew's: in the language that it reads. */
export const IN_LANGUAGES: ReadonlySet<Paper> = new Set(["walk", "emergency"]);

export const PAPER_SIZES = ["A4", "LETTER"] as const;
export type PaperSize = (typeof PAPER_SIZES)[number];
export const paperQuery = z
  .object({
    /** None: as the site's units have it. */
    size: z.enum(PAPER_SIZES).optional(),
    language: language.optional(),
    from: dateSchema.optional(),
    to: dateSchema.optional(),
    /** As a file to keep, not to look at. */
    download: z
      .literal("1")
      .transform(() => true)
      .optional(),
  })
  .refine((q) => !q.from || !q.to || q.from <= q.to, "The first day comes after the last.");
export type PaperQuery = z.output<typeof paperQuery>;

/** A sheet by mail. `id`: of this one intention; asked again under it, it is sent once. */
export const paperLetterRequest = z.strictObject({
  id: z.guid(),
  email: z.email("That is not an e-mail address.").max(320),
  words: z.string().trim().max(2000).default(""),
  size: z.enum(PAPER_SIZES).optional(),
  language: language.optional(),
  from: dateSchema.optional(),
  to: dateSchema.optional(),
});
export type PaperLetterRequest = z.output<typeof paperLetterRequest>;
