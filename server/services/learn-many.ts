import type { Learnable, LearnManyRequest, ManyAsked } from "../../contracts/controllers.ts";
import { hoursOn } from "../../core/dates/hours-on.ts";
import type { ToLearn } from "../../core/learn/to-learn.ts";
import { AppError } from "../app-error.ts";
import type { SignedIn } from "../auth/session.ts";
import { heavy } from "../heavy/pool.ts";
import { forEach } from "./all-controllers.ts";
import { learnThere, withOrders } from "./orders.ts";
import { marksOfNights } from "./mornings.ts";
import { type LoadedSite, loadSite } from "./sites.ts";

type Place = { siteId: string; controllerIds: string[] };

/** Of each of these sites, how many stations could be learned at its controllers. */
export async function learnable(user: SignedIn, places: Place[]): Promise<Learnable[]> {
  const found: Learnable[] = [];
  for (const place of places) {
    const { siteId } = place;
    try {
      const site = await loadSite(user, siteId);
      const { stale, all, refused } = await toLearnAt(user, site, place);
      await withOrders(siteId);
      found.push({ siteId, stale: stale.length, all: all.length, refused, why: null });
    } catch (error) {
      if (!(error instanceof AppError)) throw error;
      found.push({ siteId, stale: 0, all: 0, refused: 0, why: error.message });
    }
  }
  return found;
}

/** Has the controllers of many sites learn what is stale, or all; each at its own hour. */
export async function learnMany(user: SignedIn, { which, hours, sites }: LearnManyRequest): Promise<ManyAsked> {
  const by = new Map(sites.map((s) => [s.siteId, s]));
  return forEach(
    [...by.keys()],
    async (siteId) => {
      const place = by.get(siteId);
      if (!place) return;
      const site = await loadSite(user, siteId);
      const stationIds = (await toLearnAt(user, site, place))[which];
      if (stationIds.length === 0)
        throw new AppError(
          "badRequest",
          which === "stale"
            ? "every figure that can be learned stands on what it was learned on."
            : "no station can be learned as it stands.",
        );
      const instants = hours && hoursOn(site.file.site.timeZone, hours, Date.now());
      await learnThere(user, siteId, { id: place.id, stationIds, ...instants });
    },
    user,
  );
}

async function toLearnAt(user: SignedIn, site: LoadedSite, { controllerIds }: Place): Promise<ToLearn> {
  const nights = await marksOfNights(site.id);
  return heavy(user.organisationId, "toLearn", [site.file, controllerIds, new Date().toISOString(), nights]);
}
