import type { Mainline, Poc, SiteFile, Source } from "../../core/site-file/schema.ts";
import { standsOnTheSpot } from "../../core/site-file/device-checks.ts";
import { ALL_DAYS, byEmitter, file, found, meter, pipe, runs, sensor, stations, valve, WATCHFUL } from "./parts.ts";

export function reclaimedMeadow(): SiteFile {
  const list = stations(
    "tm",
    28,
    1,
    "tm-ctl",
    "tm-main",
    [
      { name: "Meadow block", emitter: "rotor", planting: "turf", from: 120, to: 170 },
      { name: "Wetland edge", emitter: "spray", planting: "shrub", from: 50, to: 80 },
      {
        name: "Picnic lawn",
        emitter: "rotor",
        planting: "turf",
        from: 95,
        to: 130,
        cycle: { longestMin: 8 },
        soakMin: 15,
      },
    ],
    41,
  );
  const source: Source = {
    id: "tm-reclaimed",
    name: "Works return main",
    kind: "reclaimed",
    potable: false,
    yieldLpm: 620,
    staticPressureKpa: 450,
    hours: [{ from: "22:00", to: "04:30" }],
  };
  const poc: Poc = {
    id: "tm-poc",
    name: "Return main vault",
    sourceIds: ["tm-reclaimed"],
    burstLimitLpm: 640,
    offScheduleLimitLpm: 35,
    handWatering: [{ window: { days: ["sat"], from: "23:00", to: "23:45" }, flowLpm: 60 }],
    devices: [
      meter("tm-meter", 600, 760),
      valve("tm-mv", 590),
      pipe("tm-riser", "4 in", 7),
      sensor("tm-fs", 102.3, 3.0, 0.2, 30),
    ].map((d) => (standsOnTheSpot(d) ? found(d) : d)),
  };
  const main: Mainline = {
    id: "tm-main",
    name: "Meadow main",
    feedIds: ["tm-poc"],
    fillS: 180,
    holdOffS: 60,
    pipes: [pipe("tm-p1", "110 mm", 520, "PVC-U", "PN10")],
  };
  return file(
    {
      id: "tidewell-meadow",
      name: "Tidewell Meadow park",
      timeZone: "America/Los_Angeles",
      units: "metric",
      notes: "Reclaimed water: purple lids, signs at both gates, no spray while the park is open.",
    },
    {
      sources: [source],
      pocs: [poc],
      mainlines: [main],
      controllers: [{ id: "tm-ctl", name: "Boat shed", powered: "mains", maxStations: 36, budgetMa: 2000 }],
      stations: list,
      programs: [
        {
          id: "tm-all",
          name: "Park night",
          controllerId: "tm-ctl",
          starts: ["22:00"],
          days: ALL_DAYS,
          maxStationsAtOnce: 5,
          runs: runs(list, (s) => byEmitter(s) + 9),
        },
      ],
      policy: { ...WATCHFUL, preset: "steady", highPercent: 25, lowPercent: 30, persistenceS: 120 },
    },
  );
}
