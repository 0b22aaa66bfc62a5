import ical from "ical-generator";
import { addDays } from "../dates/wall-time.ts";
import { plan, type PlanRun } from "../dispatch/plan.ts";
import type { SiteFile } from "../site-file/schema.ts";
import { showQuantity } from "../units/units.ts";

/**
 * The watering times of `days` dates from `first` as an iCalendar file: one event a program and night, from its first opening to its last close.
 * @param now ISO instant, for the stamp that the format wants.
 */
export function wateringCalendar(site: SiteFile, first: string, days: number, now: string): string {
  const calendar = ical({
    name: `Watering: ${site.site.name}`,
    prodId: { company: "presa", product: "watering", language: "EN" },
  });
  for (let i = 0; i < days; i++) {
    const date = addDays(first, i);
    const { runs } = plan(site, date);
    for (const program of site.programs) {
      const mine = runs.filter((r) => r.programId === program.id);
      if (mine.length === 0) continue;
      const [begin, end] = [
        mine.map((r) => r.start).reduce((a, b) => (Date.parse(b) < Date.parse(a) ? b : a)),
        mine.map((r) => r.end).reduce((a, b) => (Date.parse(b) > Date.parse(a) ? b : a)),
      ];
      const stations = new Set(mine.map((r) => r.stationId)).size;
      calendar.createEvent({
        id: `${program.id}-${date}@${site.site.id}`,
        stamp: new Date(now),
        start: new Date(begin),
        end: new Date(end),
        summary: `${program.name}, ${site.site.name}`,
        description: `${stations} station${stations === 1 ? "" : "s"}, ${showQuantity(
          mine.reduce((sum, r) => sum + litres(r), 0),
          "volume",
          site.site.units,
        )}. Worked out by Presa; the controller's own clock decides.`,
      });
    }
  }
  return calendar.toString();
}

const litres = (r: PlanRun): number => ((r.flowLpm ?? 0) * (Date.parse(r.end) - Date.parse(r.start))) / 60_000;
