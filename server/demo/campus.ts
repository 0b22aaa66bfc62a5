import type { SiteFile } from "../../core/site-file/schema.ts";
import { ALL_DAYS, backflow, byEmitter, file, meter, pipe, type Plot, runs, sensor, stations, valve } from "./parts.ts";

export function campus(): SiteFile {
  const plots: Plot[] = [
    { name: "Quad lawn", emitter: "rotor", planting: "turf", from: 70, to: 110 },
    { name: "Library beds", emitter: "drip", planting: "bed", from: 20, to: 32 },
    { name: "Cloister hedge", emitter: "drip", planting: "shrub", from: 24, to: 36 },
    { name: "Hall lawn", emitter: "spray", planting: "turf", from: 60, to: 90, cycle: { longestMin: 5 }, soakMin: 15 },
  ];
  const a = stations("qh", 30, 1, "qh-a", "qh-main", plots, 51);
  const b = stations("qh", 22, 101, "qh-b", "qh-main", plots, 52, 0.4);
  return file(
    { id: "quarrel-hill", name: "Quarrel Hill campus", timeZone: "America/Los_Angeles", units: "us" },
    {
      sources: [
        {
          id: "qh-city",
          name: "Town main, Hill Road",
          kind: "municipal",
          yieldLpm: 480,
          staticPressureKpa: 520,
          pressureDropKpaAt: { flowLpm: 400, dropKpa: 55 },
        },
      ],
      pocs: [
        {
          id: "qh-poc",
          name: "Hill Road vault",
          sourceIds: ["qh-city"],
          burstLimitLpm: 460,
          offScheduleLimitLpm: 30,
          devices: [
            meter("qh-meter", 430, 560),
            backflow("qh-bf", 440),
            valve("qh-mv", 450, "open"),
            pipe("qh-riser", "3 in", 8),
            sensor("qh-fs", 77.9, 1.7, 0.3, 16),
          ],
        },
      ],
      mainlines: [
        {
          id: "qh-main",
          name: "Campus main",
          feedIds: ["qh-poc"],
          holdOffS: 60,
          pipes: [pipe("qh-p1", "4 in", 260), pipe("qh-p2", "3 in", 340)],
        },
      ],
      controllers: [
        { id: "qh-a", name: "Porter's lodge", powered: "mains", maxStations: 32 },
        { id: "qh-b", name: "Science block", powered: "mains", maxStations: 24, unlinkedShare: 0.4 },
      ],
      stations: [...a, ...b],
      programs: [
        {
          id: "qh-old",
          name: "Old campus",
          controllerId: "qh-a",
          starts: ["21:45"],
          days: ALL_DAYS,
          windows: [{ from: "21:30", to: "05:00" }],
          maxStationsAtOnce: 3,
          runs: runs(a, byEmitter),
        },
        {
          id: "qh-science",
          name: "Science block",
          controllerId: "qh-b",
          starts: ["23:00"],
          days: ALL_DAYS,
          windows: [{ from: "22:30", to: "05:00" }],
          maxStationsAtOnce: 2,
          runs: runs(b, byEmitter),
        },
      ],
    },
  );
}
