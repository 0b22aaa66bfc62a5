import { type FlowMoment, type Plan, playedPlan, playNight } from "../dispatch/plan.ts";
import { waterworks } from "../network/waterworks.ts";
import type { SiteFile } from "../site-file/schema.ts";
import { type NightSummary, nightSummary } from "./night-summary.ts";

/** A night as it would run, the flow through every element at every change (L/min), and what the tell-line says of it. */
export type NightAnswer = { plan: Plan; moments: FlowMoment[]; summary: NightSummary };

/** The night of a local date, played once for all that is shown of it. */
export function nightAnswer(site: SiteFile, date: string): NightAnswer {
  const w = waterworks(site);
  const { plan, moments } = playedPlan(w, playNight(w, date));
  return { plan, moments, summary: nightSummary(site, date, plan, w) };
}
