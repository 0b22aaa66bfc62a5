import type { RoundsRow, SiteNames } from "../../contracts/rounds.ts";
import { localDate } from "../../core/dates/wall-time.ts";
import { type NightSummary, nightSummary } from "../../core/summary/night-summary.ts";
import type { SignedIn } from "../auth/session.ts";
import { decodeSiteFile, listSites, saveSummary, siteNames } from "../db/sites.ts";

/** One row a site, those that need someone today first. Summaries are kept per revision and date; only changed sites are computed. */
export async function rounds(user: SignedIn, now: Date): Promise<RoundsRow[]> {
  const today = now.toISOString().slice(0, 10);
  const rows = await listSites(user.organisationId, today);
  const made: RoundsRow[] = [];
  for (const row of rows) {
    const file = decodeSiteFile(row.siteFile);
    const night = localDate(file.site.timeZone, now.getTime() / 1000);
    let summary = row.summary as NightSummary | null;
    // One kept before the site's own midnight is of the night before.
    if (!summary || row.summaryVersion !== row.version || summary.date !== night) {
      summary = nightSummary(file, night);
      await saveSummary(user.organisationId, row.id, row.version, today, summary);
    }
    const learned = file.stations.flatMap((s) => (s.learned ? [s.learned.at] : [])).sort();
    const unlearned = file.stations.filter((s) => s.monitored !== false && !s.learned).length;
    const facts = {
      id: row.id,
      name: file.site.name,
      stations: file.stations.length,
      controllers: file.controllers.length,
      units: file.site.units,
      hold: file.site.holdUntil ?? null,
      localDate: summary.date,
      openAlarms: row.openAlarms,
      lockedOut: row.lockedOut,
      oldestLearned: learned[0] ?? null,
      unlearned,
      summary,
      version: row.version,
    };
    made.push({ ...facts, ...urgencyOf(facts) });
  }
  return made.sort((a, b) => b.urgency - a.urgency || a.name.localeCompare(b.name));
}

function urgencyOf(row: Omit<RoundsRow, "urgency" | "why">): { urgency: number; why: string[] } {
  const why: string[] = [];
  let urgency = 0;
  const add = (weight: number, words: string): void => {
    urgency += weight;
    why.push(words);
  };
  if (row.openAlarms > 0) add(100 + row.openAlarms, `${row.openAlarms} open alarm${row.openAlarms > 1 ? "s" : ""}`);
  if (row.lockedOut > 0) add(60 + row.lockedOut, `${row.lockedOut} locked out`);
  if (row.hold === "indefinite") add(50, "off, no end set");
  if (row.summary.shortfallMin >= 1) add(40, `${Math.round(row.summary.shortfallMin)} min short tonight`);
  if (row.summary.findings.errors > 0)
    add(30, `${row.summary.findings.errors} error${row.summary.findings.errors > 1 ? "s" : ""} in the settings`);
  if (row.hold !== null && row.hold !== "indefinite") add(5, `off until ${row.hold}`);
  if (row.unlearned > 0) add(3, `${row.unlearned} not learned`);
  return { urgency, why };
}

/** Names of all sites, for going from one to another. */
export async function siteList(user: SignedIn): Promise<SiteNames> {
  return { sites: await siteNames(user.organisationId) };
}
