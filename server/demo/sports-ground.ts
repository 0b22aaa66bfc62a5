import type { SiteFile } from "../../core/site-file/schema.ts";
import {
  ALL_DAYS,
  backflow,
  byEmitter,
  file,
  meter,
  pipe,
  type Plot,
  runs,
  sensor,
  stations,
  valve,
  WATCHFUL,
} from "./parts.ts";

export function sportsGround(): SiteFile {
  const pitch: Plot[] = [
    { name: "Pitch quarter", emitter: "rotor", planting: "turf", from: 150, to: 215 },
    { name: "Goal mouth", emitter: "rotor", planting: "turf", from: 85, to: 120 },
    {
      name: "Touchline",
      emitter: "rotor",
      planting: "turf",
      from: 110,
      to: 160,
      cycle: { longestMin: 12 },
      soakMin: 25,
    },
    { name: "Practice strip", emitter: "spray", planting: "turf", from: 60, to: 95 },
  ];
  const edge: Plot[] = [
    { name: "Stand beds", emitter: "drip", planting: "bed", from: 22, to: 40 },
    { name: "Avenue trees", emitter: "bubbler", planting: "tree", from: 45, to: 70 },
    { name: "Car park bank", emitter: "spray", planting: "shrub", from: 55, to: 90, cycle: { count: 3 }, soakMin: 15 },
  ];
  const north = stations("mf", 56, 101, "mf-c1", "mf-north", pitch, 21);
  const east = stations("mf", 48, 201, "mf-c2", "mf-east", pitch, 22, 0.9);
  const ring = stations("mf", 36, 301, "mf-c3", "mf-ring", edge, 23, 0.8);
  const window = [{ from: "21:00", to: "06:00" }];
  return file(
    {
      id: "marrow-field",
      name: "Marrow Field sports ground",
      timeZone: "America/Los_Angeles",
      units: "metric",
      maxStationsAtOnce: 14,
      notes: "Floodlit training ends 20:45; pitches must be dry by 07:00.",
    },
    {
      sources: [
        {
          id: "mf-city",
          name: "County trunk main",
          kind: "municipal",
          yieldLpm: 1100,
          staticPressureKpa: 620,
          pressureDropKpaAt: { flowLpm: 1000, dropKpa: 90 },
          monthlyBudgetM3: [0, 0, 900, 3200, 5200, 6800, 7400, 6900, 4300, 1800, 0, 0],
        },
        {
          id: "mf-bore",
          name: "Old borehole tank",
          kind: "tank",
          priority: 2,
          yieldLpm: 420,
          staticPressureKpa: 540,
          potable: true,
        },
      ],
      pocs: [
        {
          id: "mf-poc-n",
          name: "North gate vault",
          sourceIds: ["mf-city"],
          burstLimitLpm: 1150,
          offScheduleLimitLpm: 60,
          offScheduleResponse: "stopAll",
          devices: [
            meter("mf-mn", 1000, 1300),
            backflow("mf-bn", 1050),
            valve("mf-vn", 1020),
            pipe("mf-rn", "6 in", 10),
            sensor("mf-fn", 154, 8.4, 0.2, 18),
          ],
        },
        {
          id: "mf-poc-e",
          name: "East pump house",
          sourceIds: ["mf-city", "mf-bore"],
          burstLimitLpm: 640,
          offScheduleLimitLpm: 40,
          devices: [
            meter("mf-me", 560, 720),
            backflow("mf-be", 600),
            valve("mf-ve", 580),
            pipe("mf-re", "4 in", 8),
            sensor("mf-fe", 102.3, 3.1, 0.25, 12),
          ],
        },
      ],
      mainlines: [
        {
          id: "mf-north",
          name: "North main",
          feedIds: ["mf-poc-n"],
          fillS: 240,
          holdOffS: 60,
          pipes: [pipe("mf-n1", "6 in", 220, "PVC", "SDR21"), pipe("mf-n2", "4 in", 310, "PVC", "SDR21")],
        },
        {
          id: "mf-east",
          name: "East main",
          feedIds: ["mf-poc-e", "mf-poc-n"],
          fillS: 200,
          holdOffS: 60,
          pipes: [pipe("mf-e1", "4 in", 400, "PVC", "SDR21")],
        },
        {
          id: "mf-ring",
          name: "Ring main",
          feedIds: ["mf-north"],
          fillS: 150,
          holdOffS: 60,
          pipes: [pipe("mf-g1", "3 in", 640, "PVC", "SDR26")],
        },
      ],
      controllers: [
        { id: "mf-c1", name: "North stand", powered: "mains", maxStations: 64, maxStationsAtOnce: 8, budgetMa: 3000 },
        {
          id: "mf-c2",
          name: "East pump house",
          powered: "mains",
          maxStations: 48,
          maxStationsAtOnce: 6,
          budgetMa: 2500,
        },
        { id: "mf-c3", name: "Gatehouse", powered: "mains", maxStations: 48, maxStationsAtOnce: 6 },
      ],
      stations: [...north, ...east, ...ring],
      programs: [
        {
          id: "mf-p1",
          name: "North pitches",
          controllerId: "mf-c1",
          starts: ["21:30"],
          days: ALL_DAYS,
          windows: window,
          maxStationsAtOnce: 6,
          runs: runs(north, (s) => Math.round(byEmitter(s) * 0.9)),
        },
        {
          id: "mf-p2",
          name: "East pitches",
          controllerId: "mf-c2",
          starts: ["21:30"],
          days: ALL_DAYS,
          windows: window,
          maxStationsAtOnce: 5,
          runs: runs(east, (s) => Math.round(byEmitter(s) * 0.8)),
        },
        {
          id: "mf-p3",
          name: "Beds, trees, banks",
          controllerId: "mf-c3",
          priority: 2,
          starts: ["22:00"],
          days: { type: "weekdays", days: ["tue", "fri"] },
          windows: window,
          maxStationsAtOnce: 4,
          runs: runs(ring, byEmitter),
        },
      ],
      policy: { ...WATCHFUL, preset: "steady", highPercent: 25, lowPercent: 30, persistenceS: 120 },
    },
  );
}
