import { z } from "zod";

export const VIEW_SCREENS = ["rounds", "alarms"] as const;
export type ViewScreen = (typeof VIEW_SCREENS)[number];

/** What somebody looks at often: which of a screen's lines, how sorted, which columns, as the screen's address says it. Each person has their own. */
export type SavedView = { id: string; screen: ViewScreen; name: string; query: string };

/** A view of that name that is there already takes the new query. */
export const keepViewRequest = z.strictObject({
  screen: z.enum(VIEW_SCREENS),
  name: z.string().trim().min(1, "A name is needed.").max(60, "A name has at most 60 characters."),
  query: z.string().max(2000),
});
export type KeepViewRequest = z.infer<typeof keepViewRequest>;
