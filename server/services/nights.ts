import { localDate } from "../../core/dates/wall-time.ts";
import { AppError } from "../app-error.ts";
import { revisionAt } from "../db/revisions.ts";
import { newestNights, type NewestNight, saveSummary } from "../db/sites.ts";
import { heavy } from "../heavy/pool.ts";

/** The night that it is where the site is, and what its file says, worked out and kept for Rounds. */
export async function workOutNight(
  { id, organisationId, version }: { id: string; organisationId: string; version: number },
  now: Date,
): Promise<void> {
  const file = (await revisionAt(id, version))?.siteFile;
  if (!file) throw new AppError("internal", `Revision ${version} of site ${id} is missing.`);
  const date = localDate(file.site.timeZone, now.getTime() / 1000);
  await saveSummary(organisationId, id, version, await heavy(organisationId, "roundsOf", [file, date]));
}

/** The day that it is in a zone; null where there is no such zone: one site's must not stop every other's. */
function dateThere(timeZone: string | null, now: Date): string | null {
  try {
    return timeZone === null ? null : localDate(timeZone, now.getTime() / 1000);
  } catch {
    return null;
  }
}

/** Those of these sites, or of all, for which it is another day than when their night was worked out, or another revision. */
export async function oldNights(now: Date, siteIds: string[] | null = null): Promise<NewestNight[]> {
  return (await newestNights(siteIds)).filter(
    (n) => n.nightVersion !== n.version || n.date !== dateThere(n.timeZone, now),
  );
}
