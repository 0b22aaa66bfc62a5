import {
  HAPPENED,
  type Happened,
  type TimelineEntry,
  type TimelinePage,
  type TimelineQuery,
  TIMELINE_HEADS,
} from "../../contracts/timeline.ts";
import { addMonths, instantOf, localDate } from "../../core/dates/wall-time.ts";
import { AppError } from "../app-error.ts";
import type { SignedIn } from "../auth/session.ts";
import { firstHappening, type Happening, happeningsOf, toldBy } from "../db/timeline.ts";
import { zoneOfSite } from "../db/revisions.ts";
import { siteOf } from "./sites.ts";

const PAGE = 100;

/** What happened at a site in a month of its calendar, newest first, a page at a time. */
export async function timeline(user: SignedIn, siteId: string, query: TimelineQuery, now: Date): Promise<TimelinePage> {
  const { version } = await siteOf(user, siteId);
  const zone = await zoneOfSite(siteId, version);
  const monthOf = (instant: Date): string => localDate(zone, Math.floor(instant.getTime() / 1000)).slice(0, 7);
  const month = query.month ?? monthOf(now);
  const at = (first: string): Date => new Date(1000 * instantOf(zone, first, "00:00"));
  const [found, begun] = await Promise.all([
    happeningsOf(siteId, {
      from: at(`${month}-01`),
      to: at(addMonths(`${month}-01`, 1)),
      before: query.before ? readCursor(query.before) : null,
      wanted: query.only.flatMap((head) => [...TIMELINE_HEADS[head]]),
      limit: PAGE + 1,
    }),
    firstHappening(siteId),
  ]);
  const page = found.slice(0, PAGE);
  const last = page.at(-1);
  return {
    month,
    first: begun ? monthOf(begun) : month,
    entries: await told(siteId, page),
    next: found.length > PAGE && last ? cursorOf(last) : null,
  };
}

async function told(siteId: string, page: readonly Happening[]): Promise<TimelineEntry[]> {
  const sorts = HAPPENED.filter((sort) => page.some((h) => h.sort === sort));
  const bySort = new Map<Happened, Map<string, unknown>>(
    await Promise.all(
      sorts.map(
        async (sort) =>
          [
            sort,
            await toldBy(
              siteId,
              sort,
              page.flatMap((h) => (h.sort === sort ? h.ref : [])),
            ),
          ] as const,
      ),
    ),
  );
  return page.flatMap(({ at, sort, ref }) => {
    const one = bySort.get(sort)?.get(ref);
    return one ? [{ sort, at, told: one } as TimelineEntry] : [];
  });
}

const cursorOf = ({ at, sort, ref }: Happening): string => `${at} ${sort} ${ref}`;
function readCursor(text: string): Happening {
  const [at, sort, ref] = text.split(" ");
  const known = HAPPENED.find((h) => h === sort);
  if (!at || !known || !ref || Number.isNaN(Date.parse(at)))
    throw new AppError("badRequest", "This is not where a page of the timeline ends.");
  return { at, sort: known, ref };
}
