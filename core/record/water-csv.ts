import type { WaterTable } from "./water-table.ts";
import { csvLine } from "../exports/csv.ts";

/** Water of a site in some time, litres; null: nothing is known. */
export type WaterOfSite = {
  site: string;
  client: string | null;
  litres: number | null;
  lostL: number | null;
  estimatedL: number | null;
  beforeL: number | null;
  budgetM3: number | null;
};

/** Water of many sites as CSV, in m³ whatever units the sites have: for other programs. */
export function officeWaterCsv(sites: readonly WaterOfSite[]): string {
  const m3 = (litres: number | null): number | null => (litres === null ? null : Number((litres / 1000).toFixed(3)));
  const head = csvLine([
    "site",
    "client",
    "used m3",
    "leaks and breaks m3",
    "not read as planned m3",
    "a year before m3",
    "budget m3",
  ]);
  const lines = sites.map((s) =>
    csvLine([s.site, s.client, m3(s.litres), m3(s.lostL), m3(s.estimatedL), m3(s.beforeL), s.budgetM3]),
  );
  return `${[head, ...lines].join("\n")}\n`;
}

/**
 * Water of one site as CSV, a line a day or month, in m³: what it was for (or where it flowed) in columns, beside what was not read, plan, budget and a year before.
 *
 * @param words what a key stands for
 */
export function waterCsv({ keys, periods }: WaterTable, words: (key: string) => string): string {
  const m3 = (value: number | null | undefined): number | null =>
    value === null || value === undefined ? null : Number(value.toFixed(3));
  const head = csvLine([
    "time",
    "used m3",
    ...keys.map((key) => `${words(key)} m3`),
    "not read as planned m3",
    "not read h",
    "plan m3",
    "budget m3",
    "a year before m3",
  ]);
  const lines = periods.map((p) =>
    csvLine([
      p.at,
      m3(p.readM3),
      ...keys.map((key) => m3(p.by[key] ?? 0)),
      m3(p.estimatedM3),
      m3(p.unreadH),
      m3(p.planM3),
      m3(p.budgetM3),
      m3(p.yearBeforeM3),
    ]),
  );
  return `${[head, ...lines].join("\n")}\n`;
}
