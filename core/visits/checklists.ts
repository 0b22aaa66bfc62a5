import { z } from "zod";
import { DUTIES } from "./duties.ts";

const lineSchema = z.strictObject({
  id: z.string().min(1).max(40),
  words: z.string().trim().min(1, "A line needs words.").max(200),
  /** What a look at this may do anew; noted with its date then. */
  duty: z.enum(DUTIES).nullable().default(null),
});
const oneOfEach = (items: readonly { id: string }[]): boolean => new Set(items.map((i) => i.id)).size === items.length;
/** A kind of visit and what is looked at there, line by line. */
export const checklistSchema = z.strictObject({
  id: z.string().min(1).max(40),
  name: z.string().trim().min(1, "A checklist needs a name.").max(80),
  lines: z
    .array(lineSchema)
    .min(1, "A checklist needs a line at least.")
    .max(100)
    .refine(oneOfEach, "Two lines have the same id."),
});
export const checklistsSchema = z
  .array(checklistSchema)
  .min(1, "Keep one checklist at least.")
  .max(40)
  .refine(oneOfEach, "Two checklists have the same id.");
export type Checklist = z.infer<typeof checklistSchema>;
export type ChecklistLine = Checklist["lines"][number];

const line = (id: string, words: string, duty: ChecklistLine["duty"] = null): ChecklistLine => ({ id, words, duty });
const AUTOMATIC = line("automatic", "Controller on automatic");
const CLOCK = line("clock", "Its clock and date are right");
const WEATHER = line("weather", "Weather input active and not bypassed");
const BATTERY = line("battery", "Backup battery", "battery");
const ALARMS = line("alarms", "Alarms read");
const BOXES = line("boxes", "Valve boxes");
const HEADS = line("heads", "Heads, station by station");
const STRAINER = line("strainer", "Filter and strainer");
const PUMP = line("pump", "Pump");
const LEAKS = line("leaks", "Leaks, with everything shut and with each mainline full");
const BACKFLOW = line("backflow", "Backflow test, with its date", "backflow");
const PROOF = line("proof", "Sensor proof date");
const PHOTOS = line("photos", "Photographs of what has changed");

/** The usual kinds of visit, until an organisation writes its own (handbook#14-season). */
export const USUAL_CHECKLISTS: readonly Checklist[] = [
  {
    id: "spring",
    name: "Spring start",
    lines: [
      line("fill", "Filled slowly, air let out at the far ends", "spring"),
      AUTOMATIC,
      CLOCK,
      BATTERY,
      WEATHER,
      BACKFLOW,
      STRAINER,
      PUMP,
      BOXES,
      HEADS,
      LEAKS,
      PROOF,
      ALARMS,
      PHOTOS,
    ],
  },
  {
    id: "monthly",
    name: "Monthly",
    lines: [AUTOMATIC, CLOCK, WEATHER, ALARMS, BOXES, HEADS, STRAINER, PUMP, LEAKS, PHOTOS],
  },
  {
    id: "autumn",
    name: "Autumn shut-down",
    lines: [
      line("off", "Controller off, with the rain of the season in mind"),
      line("shut", "Supply shut at the point of connection"),
      line("drained", "Drained or blown out, at a pressure the pipes bear", "winter"),
      line("pumpOut", "Pump drained and protected"),
      BATTERY,
      BOXES,
      ALARMS,
      PHOTOS,
    ],
  },
  {
    id: "repair",
    name: "Repair",
    lines: [
      line("found", "What was found"),
      line("mended", "What was mended"),
      line("flushed", "Flushed before the valve was opened again"),
      line("flow", "Flow read again and compared"),
      LEAKS,
      ALARMS,
      PHOTOS,
    ],
  },
];

/** What came of a line: in order, done anew, not in order, or not looked at. */
export const LOOKED = ["ok", "done", "problem", "left"] as const;
export type Looked = (typeof LOOKED)[number];
