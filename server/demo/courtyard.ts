import type { SiteFile, Station } from "../../core/site-file/schema.ts";
import { ALL_DAYS, backflow, byEmitter, file, meter, pipe, runs, sensor, stations, valve, WATCHFUL } from "./parts.ts";

export function courtyard(): SiteFile {
  const list = stations(
    "sc",
    18,
    1,
    "sc-ctl",
    "sc-main",
    [
      { name: "Court lawn", emitter: "spray", planting: "turf", from: 42, to: 66 },
      { name: "Rose border", emitter: "drip", planting: "bed", from: 9, to: 13 },
      { name: "New turf", emitter: "spray", planting: "new", from: 50, to: 74 },
    ],
    61,
    0,
  );
  list[4] = { ...(list[4] as Station), enteredFlowLpm: 12, designFlowLpm: undefined };
  list[11] = { ...(list[11] as Station), designFlowLpm: undefined };
  return file(
    {
      id: "sallow-court",
      name: "Sallow Court housing",
      timeZone: "America/Los_Angeles",
      units: "metric",
      notes: "Taken over this season; nothing learned yet.",
    },
    {
      sources: [{ id: "sc-city", name: "Street main", kind: "municipal", staticPressureKpa: 380 }],
      pocs: [
        {
          id: "sc-poc",
          name: "Bin store vault",
          sourceIds: ["sc-city"],
          devices: [
            meter("sc-meter", 160, 200),
            backflow("sc-bf", 180),
            valve("sc-mv", 170),
            sensor("sc-fs", 52.5, 0.62, 0.35),
          ],
        },
      ],
      mainlines: [
        { id: "sc-main", name: "Court main", feedIds: ["sc-poc"], pipes: [pipe("sc-p1", "2 in", 180, "PVC", "SDR26")] },
      ],
      controllers: [{ id: "sc-ctl", name: "Bin store", powered: "mains", maxStations: 24 }],
      stations: list,
      programs: [
        {
          id: "sc-all",
          name: "Summer",
          controllerId: "sc-ctl",
          starts: ["23:30", "04:00"],
          days: ALL_DAYS,
          windows: [{ from: "23:00", to: "06:00" }],
          maxStationsAtOnce: 1,
          runs: runs(list, (s) => byEmitter(s) + 6),
        },
      ],
      policy: { ...WATCHFUL, preset: "observe", highResponse: "notify", lowResponse: "notify" },
    },
  );
}
