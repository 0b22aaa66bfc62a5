import { addDays, instantOf, localDate } from "../../core/dates/wall-time.ts";
import type { SignedIn } from "../auth/session.ts";
import { totalsAt } from "../db/meters.ts";
import { enterMeterReading } from "../services/meters.ts";
import { loadSite } from "../services/sites.ts";

/** What water meters read beside their sensors: one counts 6 % more than its sensor reads, whatever flows; behind the other something flows all the time that no sensor sees. */
const METERS = [
  { fileId: "larkspur-clinic", meterId: "lc-meter", from: 1840, factor: 1.06, unseenM3: 0, ago: [26, 19, 12, 5, 1] },
  { fileId: "quarrel-hill", meterId: "qh-meter", from: 22_914, factor: 1, unseenM3: 1.9, ago: [6, 4, 3, 1] },
] as const;
const DAY_S = 86_400;
const NOON_S = DAY_S / 2;

/** Readings at noon of some days before now, each what the sensors behind the meter summed by then, and what the meter adds to it. */
export async function loadDemoMeters(user: SignedIn, loaded: ReadonlyMap<string, string>, now: Date): Promise<void> {
  for (const { fileId, meterId, from, factor, unseenM3, ago } of METERS) {
    const siteId = loaded.get(fileId) as string;
    const { timeZone } = (await loadSite(user, siteId)).file.site;
    const today = localDate(timeZone, now.getTime() / 1000);
    const cuts = ago.map((days) => {
      const day = addDays(today, -days);
      return { at: new Date(1000 * instantOf(timeZone, day, "12:00")), day, dayS: NOON_S };
    });
    const totals = await totalsAt(siteId, cuts);
    for (const { at } of cuts) {
      const litres = totals.filter((t) => t.at.getTime() === at.getTime()).reduce((sum, t) => sum + t.litres, 0);
      const since = (at.getTime() - (cuts[0]?.at.getTime() ?? 0)) / 1000 / DAY_S;
      const m3 = Number((from + (factor * litres) / 1000 + unseenM3 * since).toFixed(2));
      const reading = {
        id: crypto.randomUUID(),
        meterId,
        at: at.toISOString(),
        m3,
        begins: false,
        note: "",
        photoId: null,
      };
      await enterMeterReading(user, siteId, reading, now);
    }
  }
}
