import type { SiteFile } from "../../core/site-file/schema.ts";
import { byEmitter, file, meter, pipe, runs, sensor, stations, valve, WATCHFUL } from "./parts.ts";

export function wellEstate(): SiteFile {
  const list = stations(
    "hb",
    36,
    1,
    "hb-ctl",
    "hb-main",
    [
      {
        name: "Green lane turf",
        emitter: "rotor",
        planting: "turf",
        from: 62,
        to: 88,
        cycle: { longestMin: 10 },
        soakMin: 20,
      },
      { name: "Front beds", emitter: "drip", planting: "bed", from: 18, to: 26 },
      { name: "Slope shrubs", emitter: "spray", planting: "shrub", from: 46, to: 64, cycle: { count: 3 }, soakMin: 18 },
      { name: "Play lawn", emitter: "rotor", planting: "turf", from: 70, to: 96 },
    ],
    31,
    0.85,
  );
  return file(
    { id: "hollin-bank", name: "Hollin Bank estate", timeZone: "America/Los_Angeles", units: "us" },
    {
      sources: [{ id: "hb-well", name: "Hollin well", kind: "well", yieldLpm: 230 }],
      pocs: [
        {
          id: "hb-poc",
          name: "Well house",
          sourceIds: ["hb-well"],
          burstLimitLpm: 260,
          offScheduleLimitLpm: 14,
          devices: [
            {
              id: "hb-pump",
              name: "Well pump",
              kind: "pump",
              minFlowLpm: 60,
              bestEfficiencyLpm: 190,
              curve: [
                { flowLpm: 0, headM: 66 },
                { flowLpm: 120, headM: 58 },
                { flowLpm: 200, headM: 46 },
                { flowLpm: 260, headM: 31 },
              ],
            },
            meter("hb-meter", 300, 360),
            { id: "hb-filter", name: "Disc filter", kind: "fixedLoss", lossKpa: 25 },
            valve("hb-mv", 260),
            pipe("hb-riser", "2.5 in", 9),
            sensor("hb-fs", 62.7, 1.12, 0.3, 12),
          ],
        },
      ],
      mainlines: [
        {
          id: "hb-main",
          name: "Estate main",
          feedIds: ["hb-poc"],
          fillS: 300,
          holdOffS: 75,
          pipes: [pipe("hb-p1", "75 mm", 420, "PE100", "PN10"), pipe("hb-p2", "63 mm", 260, "PE100", "PN10")],
        },
      ],
      controllers: [{ id: "hb-ctl", name: "Well house", powered: "mains", maxStations: 48, budgetMa: 1500 }],
      stations: list,
      programs: [
        {
          id: "hb-turf",
          name: "Turf",
          controllerId: "hb-ctl",
          starts: ["20:30"],
          days: { type: "odd", skip31st: true },
          windows: [{ from: "20:00", to: "07:00" }],
          maxStationsAtOnce: 3,
          delayS: 10,
          runs: runs(
            list.filter((s) => s.planting === "turf"),
            (s) => Math.round(byEmitter(s) * 0.9),
          ),
        },
        {
          id: "hb-beds",
          name: "Beds and slopes",
          controllerId: "hb-ctl",
          priority: 2,
          starts: ["20:30"],
          days: { type: "even" },
          windows: [{ from: "20:00", to: "07:00" }],
          maxStationsAtOnce: 5,
          runs: runs(
            list.filter((s) => s.planting !== "turf"),
            byEmitter,
          ),
        },
      ],
      policy: {
        ...WATCHFUL,
        preset: "forgiving",
        highPercent: 40,
        lowPercent: 45,
        persistenceS: 180,
        retest: true,
        lowResponse: "notify",
      },
    },
  );
}
