import type { ValveCheck, ValveCheckMade } from "../../contracts/valve-checks.ts";
import { AppError } from "../app-error.ts";
import type { SignedIn } from "../auth/session.ts";
import { insertValveCheck, valveChecksOf } from "../db/valve-checks.ts";
import { mustHaveHappened } from "./not-ahead.ts";
import { loadSite, mustBeWorkedOn, siteOf } from "./sites.ts";

const SHOWN = 60;

/** What the stations of a site's controllers drew or resisted, newest first. */
export async function valveChecks(user: SignedIn, siteId: string): Promise<ValveCheck[]> {
  await siteOf(user, siteId);
  return valveChecksOf(siteId, SHOWN);
}

/** Keeps what somebody measured at a controller. */
export async function keepValveCheck(
  user: SignedIn,
  siteId: string,
  made: ValveCheckMade,
  now: Date,
): Promise<ValveCheck[]> {
  const { file } = await loadSite(user, siteId);
  mustBeWorkedOn(await siteOf(user, siteId));
  const mine = new Set(file.stations.filter((s) => s.controllerId === made.controllerId).map((s) => s.id));
  if (made.readings.some((r) => !mine.has(r.stationId)))
    throw new AppError("badRequest", "A station that was measured is not one of this controller. Load the page again.");
  if (new Set(made.readings.map((r) => r.stationId)).size < made.readings.length)
    throw new AppError("badRequest", "A station stands twice.");
  mustHaveHappened(made.at, now);
  await insertValveCheck({ organisationId: user.organisationId, siteId }, { ...made, by: user.name });
  return valveChecksOf(siteId, SHOWN);
}
