import { z } from "zod";
import { dateSchema } from "../core/dates/date-schema.ts";
import { type Checklist, type ChecklistLine, checklistsSchema, LOOKED } from "../core/visits/checklists.ts";
import { DUTIES, type DueDay, dutyRules, type DutyRules } from "../core/visits/duties.ts";
import type { WalkView } from "./walks.ts";

const instant = z.iso.datetime({ offset: true });
const photoIds = z.array(z.guid()).max(12, "At most 12 photographs.").default([]);
const todoWords = z.string().trim().min(1, "Say what is to do.").max(500);

/** What an organisation looks at on its visits, and what it asks for by the calendar. @property version 0: nobody has set it, these are the usual ones */
export type VisitSetup = { checklists: Checklist[]; duties: DutyRules; version: number };
export const visitSetup = z.strictObject({
  checklists: checklistsSchema,
  duties: dutyRules,
  /** The one that was looked at; refused where another stands by now. */
  version: z.int().min(0),
});

/** A visit begins. `id`: of this one intention; asked again under it, it is begun once. */
export const visitBegun = z.strictObject({ id: z.guid(), checklistId: z.string().min(1).max(40), begunAt: instant });
export type VisitBegun = z.infer<typeof visitBegun>;

/** What came of a line, once under its id. */
export const visitEntry = z.strictObject({
  id: z.guid(),
  lineId: z.string().min(1).max(40),
  state: z.enum(LOOKED),
  note: z.string().trim().max(1000).default(""),
  photoIds,
  at: instant,
  /** Done anew, of which: null is the site as a whole. */
  doneOf: z.array(z.string().min(1).max(80).nullable()).max(100).default([]),
  /** What is not in order is to be done by somebody. */
  todo: z
    .strictObject({ words: todoWords, ownerId: z.guid().nullable(), due: dateSchema.nullable() })
    .nullable()
    .default(null),
});
export type VisitEntry = z.infer<typeof visitEntry>;
export const visitEntries = z.strictObject({
  entries: z.array(visitEntry).max(200),
  endedAt: instant.nullable().default(null),
  note: z.string().trim().max(4000).optional(),
});
export type VisitEntries = z.input<typeof visitEntries>;

export type VisitLook = Pick<VisitEntry, "id" | "lineId" | "state" | "note" | "photoIds" | "at"> & { by: string };
/** @property looked the newest of each line */
export type VisitView = {
  id: string;
  checklistId: string;
  name: string;
  lines: ChecklistLine[];
  begunAt: string;
  endedAt: string | null;
  note: string;
  by: string;
  /** Whether whoever asks has begun it: nobody else enters anything. */
  mine: boolean;
  looked: VisitLook[];
};

export const todoMade = z.strictObject({
  id: z.guid(),
  words: todoWords,
  ownerId: z.guid().nullable().default(null),
  due: dateSchema.nullable().default(null),
  subjectId: z.string().min(1).max(80).nullable().default(null),
  photoIds,
});
export type TodoMade = z.infer<typeof todoMade>;
/** What changes of it; refused where another version stands by now. */
export const todoChange = z.strictObject({
  version: z.int().min(1),
  words: todoWords.optional(),
  ownerId: z.guid().nullable().optional(),
  due: dateSchema.nullable().optional(),
  /** Done, in words; or not done after all. */
  done: z
    .strictObject({ words: z.string().trim().max(500) })
    .nullable()
    .optional(),
});
export type TodoChange = z.infer<typeof todoChange>;
export type Todo = Omit<TodoMade, "ownerId"> & {
  ownerId: string | null;
  owner: string | null;
  visitId: string | null;
  madeBy: string;
  madeAt: string;
  done: { at: string; by: string; words: string } | null;
  version: number;
};

/** That something was done anew. */
export const dutyNoted = z.strictObject({
  id: z.guid(),
  duty: z.enum(DUTIES),
  subjectId: z.string().min(1).max(80).nullable(),
  on: dateSchema,
  words: z.string().trim().max(500).default(""),
});
export type DutyNoted = z.infer<typeof dutyNoted>;
export type DutyRecord = DutyNoted & { by: string };

/** What is to be done at a site, and by when. */
export type SiteDue = { due: DueDay[]; done: DutyRecord[] };
/** What a site's visits need: what was and is on, walks too, who may own something, and what checklists there are. */
export type VisitBook = {
  visits: VisitView[];
  walks: WalkView[];
  people: { id: string; name: string }[];
  setup: VisitSetup;
};
