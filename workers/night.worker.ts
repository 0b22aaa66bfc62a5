import { expose } from "comlink";
import { flowMoments, planOf, playNight } from "../core/dispatch/plan.ts";
import { waterworks } from "../core/network/waterworks.ts";
import type { SiteFile } from "../core/site-file/schema.ts";
import { nightSummary } from "../core/summary/night-summary.ts";
import type { NightAnswer } from "./messages.ts";

/** The night of the draft, worked out anew with every edit: this worker lives as long as the page. */
const nightDesk = {
  night(site: SiteFile, date: string): NightAnswer {
    const w = waterworks(site);
    const night = playNight(w, date);
    const plan = planOf(w, night);
    return { plan, moments: flowMoments(w, night, [...night.runs]), summary: nightSummary(site, date, plan) };
  },
};
export type NightWorker = typeof nightDesk;

expose(nightDesk);
