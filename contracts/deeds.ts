import { z } from "zod";
import { deedChange } from "./office-change.ts";

/** So many sites with one request, at the most. */
const SITES_AT_ONCE = 20;

export const previewRequest = z.strictObject({
  siteIds: z.array(z.guid()).min(1).max(SITES_AT_ONCE),
  change: deedChange,
});
/** @property ofBudget what the programs take of the month's water budget, 1: all of it; null where there is none */
type NightFigures = { finish: string | null; shortfallMin: number; ofBudget: number | null };
/** What a change would do to one site. */
export type SitePreview = {
  siteId: string;
  version: number;
  /** What changes in its settings, in words; none: nothing does. */
  changes: string[];
  /** Tonight, as it is and as it would be; null where the change is none of the site's settings. */
  before: NightFigures | null;
  after: NightFigures | null;
  /** Findings that come, and that go, in words. */
  come: string[];
  go: string[];
  localDate: string;
  /** Why it cannot be made there. */
  problem: string | null;
};

/** A deed is begun under an id of its own, so that asked again it is the same; then it is done, some sites at a time. */
export const deedRequest = z.strictObject({ id: z.guid(), change: deedChange });
export const deedSites = z.strictObject({
  sites: z
    .array(z.strictObject({ siteId: z.guid(), version: z.int().min(1) }))
    .min(1)
    .max(SITES_AT_ONCE),
});
export const deedUndo = z.strictObject({ siteIds: z.array(z.guid()).min(1).max(SITES_AT_ONCE) });

export type DeedView = {
  id: string;
  name: string;
  madeBy: string;
  madeAt: string;
  /** Sites on which it stands, by name. */
  standing: { siteId: string; name: string }[];
  undone: number;
};
