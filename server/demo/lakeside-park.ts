import type { Device, Mainline, Poc, SiteFile, Source, Station } from "../../core/site-file/schema.ts";
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

const PLOTS: Record<string, Plot[]> = {
  meadow: [
    {
      name: "Long meadow",
      emitter: "rotor",
      planting: "turf",
      from: 95,
      to: 140,
      cycle: { longestMin: 12 },
      soakMin: 25,
    },
    { name: "Kite lawn", emitter: "rotor", planting: "turf", from: 80, to: 118 },
    { name: "Path verge", emitter: "spray", planting: "turf", from: 42, to: 60 },
  ],
  beds: [
    { name: "Rose terrace", emitter: "drip", planting: "bed", from: 16, to: 28 },
    { name: "Fern bank", emitter: "spray", planting: "shrub", from: 38, to: 55, cycle: { count: 3 }, soakMin: 15 },
    { name: "Hedge walk", emitter: "drip", planting: "shrub", from: 18, to: 30 },
  ],
  shore: [
    { name: "Shore lawn", emitter: "rotor", planting: "turf", from: 88, to: 125 },
    { name: "Reed edge", emitter: "spray", planting: "shrub", from: 45, to: 66 },
    { name: "Willow row", emitter: "bubbler", planting: "tree", from: 30, to: 44 },
  ],
};

/** The largest of the demo: eight of everything and 150 stations, with waters of different kind, pumps, a ring of feeds and a two-wire path. */
export function lakesidePark(): SiteFile {
  const sources: Source[] = [
    {
      id: "lp-s1",
      name: "Town main, west",
      kind: "municipal",
      yieldLpm: 620,
      staticPressureKpa: 520,
      elevationM: 14,
      pressureDropKpaAt: { flowLpm: 500, dropKpa: 70 },
    },
    {
      id: "lp-s2",
      name: "Town main, north",
      kind: "municipal",
      yieldLpm: 540,
      staticPressureKpa: 495,
      elevationM: 17,
      pressureDropKpaAt: { flowLpm: 500, dropKpa: 85 },
    },
    {
      id: "lp-s3",
      name: "Hill tank",
      kind: "tank",
      potable: true,
      priority: 2,
      yieldLpm: 420,
      staticPressureKpa: 380,
      elevationM: 22,
    },
    { id: "lp-s4", name: "Orchard well", kind: "well", yieldLpm: 330, elevationM: 3 },
    {
      id: "lp-s5",
      name: "Lake intake",
      kind: "pond",
      yieldLpm: 700,
      elevationM: 4,
      hours: [{ from: "20:00", to: "07:00" }],
    },
    {
      id: "lp-s6",
      name: "Works return",
      kind: "reclaimed",
      yieldLpm: 560,
      staticPressureKpa: 430,
      elevationM: 12,
      hours: [{ from: "21:00", to: "05:30" }],
    },
    { id: "lp-s7", name: "East well", kind: "well", priority: 2, yieldLpm: 260, elevationM: 2 },
    { id: "lp-s8", name: "Rain cistern", kind: "tank", priority: 1, potable: false, yieldLpm: 200, elevationM: 8 },
  ];
  const pump = (
    id: string,
    name: string,
    most: number,
    headM: number,
    minFlowLpm: number,
    parallel?: number,
  ): Device => ({
    id,
    name,
    kind: "pump",
    minFlowLpm,
    bestEfficiencyLpm: Math.round(most * 0.7),
    curve: [
      { flowLpm: 0, headM },
      { flowLpm: Math.round(most * 0.5), headM: Math.round(headM * 0.9) },
      { flowLpm: Math.round(most * 0.8), headM: Math.round(headM * 0.72) },
      { flowLpm: most, headM: Math.round(headM * 0.5) },
    ],
    ...(parallel ? { parallel } : {}),
  });
  const head = (n: number, nominal: string, lengthM: number, boreMm: number, k: number, max: number): Device[] => [
    valve(`lp-v${n}`, max),
    pipe(`lp-r${n}`, nominal, lengthM),
    sensor(`lp-f${n}`, boreMm, k, 0.25, Math.round(boreMm * 0.12)),
  ];
  const poc = (
    n: number,
    name: string,
    sourceIds: string[],
    elevationM: number,
    burstLimitLpm: number,
    devices: Device[],
    more: Partial<Poc> = {},
  ): Poc => ({
    id: `lp-p${n}`,
    name,
    sourceIds,
    elevationM,
    burstLimitLpm,
    offScheduleLimitLpm: 25,
    offScheduleResponse: "stopAll",
    devices,
    ...more,
  });
  const pocs: Poc[] = [
    poc(1, "West gate vault", ["lp-s1"], 14, 640, [
      meter("lp-m1", 560, 760),
      backflow("lp-b1", 600),
      ...head(1, "4 in", 8, 102.3, 3.1, 580),
    ]),
    poc(2, "North gate vault", ["lp-s2", "lp-s3"], 16, 560, [
      meter("lp-m2", 500, 680),
      backflow("lp-b2", 540),
      ...head(2, "4 in", 12, 102.3, 3.1, 520),
    ]),
    poc(3, "Orchard well house", ["lp-s4"], 9, 390, [
      pump("lp-u3", "Orchard pump", 360, 62, 55),
      meter("lp-m3", 400, 520),
      ...head(3, "3 in", 6, 77.9, 1.9, 380),
    ]),
    poc(4, "Boathouse pump room", ["lp-s5", "lp-s8"], 7, 760, [
      pump("lp-u4", "Lake pumps", 420, 58, 90, 2),
      { id: "lp-x4", name: "Screen filter", kind: "fixedLoss", lossKpa: 30 },
      meter("lp-m4", 800, 1050),
      ...head(4, "6 in", 14, 154.1, 8.4, 800),
    ]),
    poc(5, "Return main vault", ["lp-s6"], 11, 600, [meter("lp-m5", 560, 740), ...head(5, "4 in", 9, 102.3, 3.0, 580)]),
    poc(6, "East well house", ["lp-s7"], 8, 300, [
      pump("lp-u6", "East pump", 300, 66, 45),
      meter("lp-m6", 320, 420),
      ...head(6, "3 in", 7, 77.9, 1.9, 330),
    ]),
    poc(7, "Terrace vault", ["lp-s1"], 19, 250, [
      meter("lp-m7", 230, 300),
      backflow("lp-b7", 260),
      { id: "lp-g7", name: "Regulator", kind: "regulator", setKpa: 300 },
      ...head(7, "2.5 in", 5, 62.7, 1.1, 260),
    ]),
    poc(8, "Cistern kiosk", ["lp-s8"], 9, 230, [
      pump("lp-u8", "Cistern pump", 240, 48, 35),
      ...head(8, "2.5 in", 6, 62.7, 1.1, 240),
    ]),
  ];
  const main = (
    n: number,
    name: string,
    feedIds: string[],
    elevationM: number,
    pipes: Mainline["pipes"],
    more: Partial<Mainline> = {},
  ): Mainline => ({ id: `lp-n${n}`, name, feedIds, elevationM, fillS: 180, holdOffS: 60, pipes, ...more });
  const mainlines: Mainline[] = [
    main(1, "West main", ["lp-p1"], 14, [
      pipe("lp-n1a", "4 in", 260, "PVC", "SDR21"),
      pipe("lp-n1b", "3 in", 180, "PVC", "SDR21"),
    ]),
    main(2, "North main", ["lp-p2"], 16, [
      pipe("lp-n2a", "4 in", 310, "PVC", "SDR21"),
      pipe("lp-n2b", "3 in", 140, "PVC", "SDR21"),
    ]),
    main(3, "Middle main", ["lp-n1", "lp-n2"], 13, [pipe("lp-n3a", "3 in", 340, "PVC", "SDR21")]),
    main(4, "Orchard main", ["lp-p3", "lp-p6"], 8, [pipe("lp-n4a", "90 mm", 380, "PE100", "PN10")]),
    main(5, "Shore main", ["lp-p4"], 6, [
      pipe("lp-n5a", "160 mm", 290, "PE100", "PN10"),
      pipe("lp-n5b", "125 mm", 330, "PE100", "PN10"),
    ]),
    main(6, "Meadow main", ["lp-p5"], 10, [pipe("lp-n6a", "110 mm", 420, "PVC-U", "PN10")]),
    main(7, "Terrace main", ["lp-p7"], 21, [pipe("lp-n7a", "2.5 in", 190)]),
    main(8, "Kiosk main", ["lp-p8"], 8, [pipe("lp-n8a", "75 mm", 240, "PE100", "PN10")]),
  ];
  const counts: [number, string, keyof typeof PLOTS, string][] = [
    [26, "lp-n1", "meadow", "lp-c1"],
    [24, "lp-n2", "beds", "lp-c1"],
    [18, "lp-n3", "meadow", "lp-c1"],
    [22, "lp-n4", "shore", "lp-c2"],
    [24, "lp-n5", "shore", "lp-c2"],
    [16, "lp-n6", "meadow", "lp-c2"],
    [12, "lp-n7", "beds", "lp-c3"],
    [8, "lp-n8", "beds", "lp-c3"],
  ];
  let next = 1;
  const all: Station[] = counts.flatMap(([count, mainlineId, plots, controllerId], i) => {
    const made = stations("lp", count, next, controllerId, mainlineId, PLOTS[plots] as Plot[], 71 + i, 0.9);
    next += count;
    return made;
  });
  const wired = all.map((s, i): Station => {
    if (s.controllerId !== "lp-c2")
      return {
        ...s,
        coil: "ac24",
        address: String(all.slice(0, i + 1).filter((x) => x.controllerId === s.controllerId).length),
      };
    return i % 9 === 4
      ? { ...s, wirePathId: "lp-w2", coil: "ac24" }
      : { ...s, wirePathId: "lp-w2", serial: `K${String(20_140 + 7 * i)}`, address: "1", coil: "ac24" };
  });
  /* Bubblers at the trees stand in basins, the terraces under roofs: rain does not stop them. */
  const sheltered = wired.map(
    (s): Station => (s.planting === "tree" || s.mainlineId === "lp-n7" ? { ...s, ignoresInputs: ["lp-i1"] } : s),
  );
  const of = (mainlineId: string): Station[] => sheltered.filter((s) => s.mainlineId === mainlineId);
  const night = [{ from: "20:30", to: "06:30" }];
  const program = (
    n: number,
    name: string,
    controllerId: string,
    mains: string[],
    starts: string[],
    share: number,
    at: number,
    days: SiteFile["programs"][number]["days"] = ALL_DAYS,
  ): SiteFile["programs"][number] => ({
    id: `lp-g-${n}`,
    name,
    controllerId,
    starts,
    days,
    windows: night,
    maxStationsAtOnce: at,
    runs: runs(mains.flatMap(of), (s) => Math.max(3, Math.round(byEmitter(s) * share))),
  });
  return file(
    {
      id: "lakeside-park",
      name: "Lakeside Park",
      timeZone: "America/Los_Angeles",
      units: "metric",
      notes: "Gates close 20:15. Boathouse key at the kiosk. Return main: purple lids, no spray before 21:00.",
    },
    {
      sources,
      pocs,
      mainlines,
      controllers: [
        { id: "lp-c1", name: "West lodge", powered: "mains", maxStations: 72, maxStationsAtOnce: 8, budgetMa: 2600 },
        {
          id: "lp-c2",
          name: "Boathouse",
          powered: "mains",
          maxStations: 96,
          maxStationsAtOnce: 8,
          budgetMa: 2600,
          wirePaths: [{ id: "lp-w2", name: "Shore path", kind: "twoWire" }],
        },
        { id: "lp-c3", name: "Terrace kiosk", powered: "mains", maxStations: 24, maxStationsAtOnce: 3, budgetMa: 1200 },
      ],
      stations: sheltered,
      programs: [
        program(1, "West lawns and beds", "lp-c1", ["lp-n1", "lp-n2", "lp-n3"], ["21:00"], 0.6, 7),
        program(2, "Shore and orchard", "lp-c2", ["lp-n4", "lp-n5"], ["21:00"], 0.8, 6),
        {
          ...program(3, "Meadow", "lp-c2", ["lp-n6"], ["21:30"], 0.7, 3),
          onInputs: [{ inputId: "lp-i3", does: "pause", when: "above", limit: 38 }],
        },
        program(4, "Terraces", "lp-c3", ["lp-n7", "lp-n8"], ["22:00"], 0.7, 3, {
          type: "interval",
          everyDays: 2,
          anchor: "2026-05-01",
        }),
      ],
      weatherInputs: [
        { id: "lp-i1", name: "Rain dish, west lodge", kind: "rain" },
        { id: "lp-i2", name: "Frost, boathouse wall", kind: "freeze" },
        { id: "lp-i3", name: "Soil probe, meadow", kind: "moisture" },
      ],
      tray: ["K20999", "K21006", "K21013", "K21020"].map((serial) => ({ serial })),
      wireReadings: [
        {
          id: "lp-wr1",
          subjectId: "lp4",
          where: "controller",
          ohm: 38,
          at: "2026-10-12T15:20:00Z",
          by: "Tolly Brandish",
        },
        { id: "lp-wr2", subjectId: "lp9", where: "coil", ohm: 31, at: "2026-10-12T15:31:00Z", by: "Tolly Brandish" },
        {
          id: "lp-wr3",
          subjectId: "lp9",
          where: "controller",
          ohm: 54,
          at: "2026-10-12T15:40:00Z",
          by: "Tolly Brandish",
          note: "splice in box 14 looks green",
        },
      ],
      policy: { ...WATCHFUL, preset: "steady", highPercent: 25, lowPercent: 30, persistenceS: 120 },
    },
  );
}
