import { csvLine } from "./csv.ts";

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
