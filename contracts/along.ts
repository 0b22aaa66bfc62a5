import type { SiteFile } from "../core/site-file/schema.ts";
import type { DueDay } from "../core/visits/duties.ts";
import type { Alarm, AlarmEntry, Person } from "./alarms.ts";
import type { Speaks } from "./controllers.ts";
import type { Role } from "./people.ts";
import type { Todo, VisitSetup, VisitView } from "./visits.ts";
import type { WalkView } from "./walks.ts";

/** Of what shape what is taken along is: another one with every change that the jobs in the field have to find there. What a phone holds in another shape is read anew. */
export const ALONG_SHAPE = 1;

/** A site as it is taken along: everything that the jobs in the field need of it, as of `at`. */
export type Along = {
  shape: number;
  siteId: string;
  at: string;
  version: number;
  file: SiteFile;
  role: Role;
  /** Open ones, and the last that were cleared; with what was done about them. */
  alarms: Alarm[];
  entries: AlarmEntry[];
  people: Person[];
  visits: VisitView[];
  setup: VisitSetup;
  walks: WalkView[];
  /** Open ones. */
  todos: Todo[];
  /** What has to be done anew, each by its day. */
  due: DueDay[];
  /** What its gateway is, and whether it takes orders; null: it has none. */
  gateway: { state: "waiting" | "live" | "silent" | "unreachable"; speaks: Speaks } | null;
};
