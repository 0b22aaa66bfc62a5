import type { SiteFile } from "../../core/site-file/schema.ts";
import { backflow, byEmitter, file, meter, pipe, runs, sensor, stations, valve } from "./parts.ts";

export function clinicGarden(): SiteFile {
  const list = stations(
    "lc",
    9,
    1,
    "lc-ctl",
    "lc-main",
    [
      { name: "Entrance lawn", emitter: "spray", planting: "turf", from: 48, to: 62 },
      { name: "Waiting court beds", emitter: "drip", planting: "bed", from: 14, to: 18 },
      {
        name: "South lawn",
        emitter: "spray",
        planting: "turf",
        from: 55,
        to: 70,
        cycle: { longestMin: 4 },
        soakMin: 15,
      },
      { name: "Lime row", emitter: "bubbler", planting: "tree", from: 26, to: 34 },
      { name: "Physic garden", emitter: "drip", planting: "bed", from: 16, to: 22 },
      {
        name: "Ambulance bank",
        emitter: "spray",
        planting: "shrub",
        from: 40,
        to: 52,
        cycle: { count: 3 },
        soakMin: 12,
      },
      { name: "Staff terrace", emitter: "spray", planting: "bed", from: 30, to: 38 },
      { name: "North verge", emitter: "spray", planting: "turf", from: 44, to: 60 },
      { name: "Car park trees", emitter: "bubbler", planting: "tree", from: 28, to: 36 },
    ],
    11,
  );
  return file(
    {
      id: "larkspur-clinic",
      name: "Larkspur Clinic garden",
      timeZone: "America/Los_Angeles",
      units: "us",
      notes: "Valve boxes 3 and 6 share a trench; mark before digging.",
    },
    {
      sources: [
        {
          id: "lc-city",
          name: "Tarrow town main",
          kind: "municipal",
          yieldLpm: 260,
          staticPressureKpa: 480,
          pressureDropKpaAt: { flowLpm: 200, dropKpa: 60 },
        },
      ],
      pocs: [
        {
          id: "lc-poc",
          name: "Clinic vault",
          sourceIds: ["lc-city"],
          burstLimitLpm: 220,
          offScheduleLimitLpm: 12,
          devices: [
            meter("lc-meter", 190, 240),
            backflow("lc-bf", 230),
            valve("lc-mv", 210),
            pipe("lc-riser", "1.5 in", 6, "Copper", "L", "Riser"),
            sensor("lc-fs", 38.2, 0.31, 0.4),
          ],
        },
      ],
      mainlines: [
        {
          id: "lc-main",
          name: "Garden loop",
          feedIds: ["lc-poc"],
          fillS: 90,
          holdOffS: 45,
          pipes: [pipe("lc-p1", "2 in", 85), pipe("lc-p2", "1.5 in", 60)],
        },
      ],
      controllers: [
        {
          id: "lc-ctl",
          name: "Plant room wall",
          powered: "mains",
          maxStations: 12,
          maxPrograms: 4,
          maxStartsPerProgram: 4,
          budgetMa: 1000,
        },
      ],
      stations: list,
      programs: [
        {
          id: "lc-turf",
          name: "Lawns",
          controllerId: "lc-ctl",
          starts: ["22:00"],
          days: { type: "weekdays", days: ["mon", "wed", "fri"] },
          windows: [{ from: "21:30", to: "05:30" }],
          maxStationsAtOnce: 2,
          runs: runs(
            list.filter((s) => s.planting === "turf"),
            byEmitter,
          ),
        },
        {
          id: "lc-beds",
          name: "Beds and trees",
          controllerId: "lc-ctl",
          priority: 2,
          starts: ["22:00"],
          days: { type: "interval", everyDays: 2, anchor: "2026-05-02" },
          windows: [{ from: "21:30", to: "05:30" }],
          maxStationsAtOnce: 3,
          runs: runs(
            list.filter((s) => s.planting !== "turf"),
            byEmitter,
          ),
        },
      ],
    },
  );
}
