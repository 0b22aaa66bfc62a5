import type { PlanRun } from "../dispatch/plan.ts";
import type { SiteFile } from "../site-file/schema.ts";
import { csvLine } from "./csv.ts";

/** The runs of a night as CSV, in the order in which they open; flows in L/min, volumes in L. */
export function runsCsv(site: SiteFile, runs: PlanRun[]): string {
  const lines = runs.map((r) => {
    const s = site.stations.find((x) => x.id === r.stationId);
    const minutes = (Date.parse(r.end) - Date.parse(r.start)) / 60_000;
    return csvLine([
      r.start,
      r.end,
      Number(minutes.toFixed(3)),
      site.controllers.find((c) => c.id === s?.controllerId)?.name,
      s?.number,
      s?.name,
      site.programs.find((p) => p.id === r.programId)?.name,
      r.cycle,
      r.flowLpm,
      r.flowLpm === null ? null : Number((r.flowLpm * minutes).toFixed(1)),
    ]);
  });
  return `${[csvLine(["opens", "closes", "minutes", "controller", "station", "name", "program", "cycle", "flow L/min", "volume L"]), ...lines].join("\n")}\n`;
}
