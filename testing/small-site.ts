import { parseSiteOrThrow } from "../core/site-file/parse-site.ts";
import type { SiteFile } from "../core/site-file/schema.ts";

/** Two stations of 100 and one of 50 L/min on a main of 150, watered Tuesdays at 22:00, unless changed. */
export function smallSite(change: (site: SiteFile) => void = () => {}): SiteFile {
  const site: SiteFile = {
    format: "presa-site",
    version: 1,
    site: { id: "small", name: "Small", timeZone: "Europe/Vienna", units: "metric" },
    sources: [{ id: "src", name: "Source", kind: "municipal" }],
    pocs: [
      {
        id: "poc",
        name: "Poc",
        sourceIds: ["src"],
        devices: [
          { id: "mv", kind: "masterValve", normally: "closed" },
          {
            id: "fs",
            kind: "flowSensor",
            output: { type: "frequency", kGpm: 1.6, offsetHz: 0.3 },
            minLpm: 10,
            maxLpm: 1500,
          },
        ],
        offScheduleLimitLpm: 20,
      },
    ],
    mainlines: [{ id: "main", name: "Main", feedIds: ["poc"], pipes: [], ceilingLpm: 150 }],
    controllers: [{ id: "ctl", name: "Controller", powered: "mains" }],
    stations: [1, 2, 3].map((n) => ({
      id: `s${n}`,
      number: n,
      name: `S${n}`,
      controllerId: "ctl",
      mainlineId: "main",
      designFlowLpm: n === 3 ? 50 : 100,
    })),
    programs: [
      {
        id: "p",
        name: "P",
        controllerId: "ctl",
        starts: ["22:00"],
        days: { type: "weekdays", days: ["tue"] },
        maxStationsAtOnce: 3,
        runs: [1, 2, 3].map((n) => ({ stationId: `s${n}`, minutes: 10 })),
      },
    ],
    policy: {
      basis: "station",
      highPercent: 20,
      lowPercent: 25,
      persistenceS: 60,
      highResponse: "findAndIsolate",
      lowResponse: "findAndIsolate",
    },
  };
  change(site);
  return parseSiteOrThrow(site);
}
