import { localDate } from "../../core/dates/wall-time.ts";
import type { NightSummary } from "../../core/summary/night-summary.ts";
import type { SiteFacts } from "../../core/summary/site-facts.ts";
import type { SiteFile } from "../../core/site-file/schema.ts";
import { AppError } from "../app-error.ts";
import { insideTransaction } from "../db/connection.ts";
import { revisionAt } from "../db/revisions.ts";
import { newestNights, saveSummary } from "../db/sites.ts";
import { heavy } from "../heavy/pool.ts";
import { log } from "../log.ts";

/** What Rounds shows of a site: its night, and what its file says. */
export type Night = { summary: NightSummary; facts: SiteFacts };
type Of = { id: string; version: number };

/** What is being worked out in this process: asked for again meanwhile, it is the same work. */
const atWork = new Map<string, Promise<Night>>();
const WORKERS_AT_ONCE = 4;

/** The night that it is where the site is, worked out and kept. */
export function workOutNight(organisationId: string, { id, version }: Of, now: Date, known?: SiteFile): Promise<Night> {
  const key = `${id} ${version} ${now.toISOString().slice(0, 13)}`;
  const doing = atWork.get(key);
  if (doing) return doing;
  const work = (async () => {
    const file = known ?? (await revisionAt(id, version))?.siteFile;
    if (!file) throw new AppError("internal", `Revision ${version} of site ${id} is missing.`);
    const date = localDate(file.site.timeZone, now.getTime() / 1000);
    const night = await heavy(organisationId, "roundsOf", [file, date]);
    await saveSummary(organisationId, id, version, night);
    return night;
  })().finally(() => atWork.delete(key));
  atWork.set(key, work);
  return work;
}

/** When nothing more is being worked out in this process. */
export async function nightsAtRest(): Promise<void> {
  while (atWork.size > 0) await Promise.allSettled(atWork.values());
}

/** After a save: so that Rounds has it when somebody looks. What comes of it nobody waits for. */
export function workOutLater(organisationId: string, site: Of & { file: SiteFile }): void {
  // Inside a larger transaction it is not there yet for anyone else; a worker finds it once it is.
  if (insideTransaction()) return;
  workOutNight(organisationId, site, new Date(), site.file).catch((error) =>
    log.warn({ err: error, site: site.id }, "a night was not worked out ahead"),
  );
}

/** The day that it is in a zone; null where there is no such zone: one site's must not stop every other's. */
function dateThere(timeZone: string | null, now: Date): string | null {
  try {
    return timeZone === null ? null : localDate(timeZone, now.getTime() / 1000);
  } catch {
    return null;
  }
}

/** In a worker: the nights of all sites for which it is another day than when they were worked out, or another revision. */
export async function workOutOldNights(now: Date): Promise<number> {
  const old = (await newestNights()).filter(
    (n) => n.nightVersion !== n.version || n.date !== dateThere(n.timeZone, now),
  );
  for (let from = 0; from < old.length; from += WORKERS_AT_ONCE)
    await Promise.all(
      old
        .slice(from, from + WORKERS_AT_ONCE)
        .map((site) =>
          workOutNight(site.organisationId, site, now).catch((error) =>
            log.warn({ err: error, site: site.id }, "a night was not worked out ahead"),
          ),
        ),
    );
  return old.length;
}
