import { flowAtVelocityLpm } from "../pipes/flow-in-pipe.ts";
import { findSize } from "../pipes/pipe-table.ts";
import { LITRES_PER_US_GALLON } from "../units/units.ts";
import type { LibraryItem } from "./library-item.ts";

/** Said with every one of these, wherever it is shown. */
export const TYPICAL_NOTE = "typical, check the data sheet";

const gpm = (v: number): number => Math.round(v * LITRES_PER_US_GALLON);
const item = (name: string, body: LibraryItem["body"]): LibraryItem => ({ name, note: TYPICAL_NOTE, body });

/** Displacement and turbine meters in inch sizes: safe maximum, half of it all day, 13 psi at the safe maximum (the ranges of AWWA C700 and C701). */
const INCH_METERS: [string, number][] = [
  ["5/8 in", 20],
  ["3/4 in", 30],
  ["1 in", 50],
  ["1-1/2 in", 100],
  ["2 in", 160],
  ["3 in", 350],
  ["4 in", 650],
  ["6 in", 1400],
];
/** Metric meters: permanent flow Q3 in m³/h, 63 kPa at it (ISO 4064 loss class 63). */
const METRIC_METERS: [string, number][] = [
  ["DN15", 2.5],
  ["DN20", 4],
  ["DN25", 6.3],
  ["DN32", 10],
  ["DN40", 16],
  ["DN50", 25],
  ["DN65", 40],
  ["DN80", 63],
  ["DN100", 100],
  ["DN150", 250],
];
/** Globe-pattern solenoid and hydraulic valves: size, Kv in m³/h at 1 bar, largest flow in L/min. */
const VALVES: [string, number, number][] = [
  ["1 in", 11, 115],
  ["1-1/4 in", 17, 190],
  ["1-1/2 in", 25, 300],
  ["2 in", 42, 490],
  ["3 in", 95, 1100],
  ["4 in", 160, 2000],
  ["6 in", 390, 4500],
];
/** Reduced-pressure assemblies: largest flow, US gal/min; about 12 psi from the first litre, 14 at the largest. */
const BACKFLOW: [string, number][] = [
  ["3/4 in", 30],
  ["1 in", 50],
  ["1-1/2 in", 100],
  ["2 in", 160],
  ["3 in", 320],
  ["4 in", 500],
  ["6 in", 1000],
];
/** Tee bodies by fitting size and wall: what sits in a pipe of that bore. */
const TEES: [string, string][] = [
  ["1 in", "SCH80"],
  ["1.25 in", "SCH80"],
  ["1.5 in", "SCH80"],
  ["2 in", "SCH80"],
  ["2.5 in", "SCH80"],
  ["3 in", "SCH80"],
  ["4 in", "SCH80"],
  ["1.5 in", "SCH40"],
  ["2 in", "SCH40"],
  ["3 in", "SCH40"],
  ["4 in", "SCH40"],
  ["6 in", "SCH40"],
];
/** A paddle turns about this often for each m/s of water past it. */
const PADDLE_HZ_PER_MS = 30;

function tee(nominal: string, wall: string): LibraryItem[] {
  const bore = findSize("PVC", wall, nominal)?.insideMm;
  if (bore === undefined) return [];
  const kGpm = Number((flowAtVelocityLpm(1, bore) / LITRES_PER_US_GALLON / PADDLE_HZ_PER_MS).toPrecision(4));
  return [
    item(`Paddle sensor in a ${nominal} ${wall} tee`, {
      kind: "flowSensor",
      output: { type: "frequency", kGpm, offsetHz: 0.3 },
      insideDiameterMm: Number(bore.toFixed(2)),
      vMinMs: 0.15,
      vMaxMs: 6,
    }),
  ];
}

/** The generic library: sensible figures to begin with, of no maker. */
export const TYPICAL: LibraryItem[] = [
  ...INCH_METERS.map(([size, safe]) =>
    item(`Water meter ${size}`, {
      kind: "meter",
      continuousMaxLpm: gpm(safe / 2),
      safeMaxLpm: gpm(safe),
      lossKpaAt: { flowLpm: gpm(safe), lossKpa: 90 },
    }),
  ),
  ...METRIC_METERS.map(([size, q3]) =>
    item(`Water meter ${size}, Q3 ${q3} m³/h`, {
      kind: "meter",
      continuousMaxLpm: Math.round((q3 * 1000) / 60),
      lossKpaAt: { flowLpm: Math.round((q3 * 1000) / 60), lossKpa: 63 },
    }),
  ),
  ...VALVES.map(([size, kv, maxLpm]) =>
    item(`Globe valve ${size}`, { kind: "masterValve", normally: "closed", kv, maxLpm, coil: "ac24", solenoidMa: 250 }),
  ),
  ...BACKFLOW.map(([size, most]) =>
    item(`Reduced-pressure assembly ${size}`, {
      kind: "backflow",
      maxLpm: gpm(most),
      lossPoints: [
        { flowLpm: 0, lossKpa: 80 },
        { flowLpm: gpm(most * 0.5), lossKpa: 83 },
        { flowLpm: gpm(most), lossKpa: 97 },
      ],
    }),
  ),
  ...TEES.flatMap(([nominal, wall]) => tee(nominal, wall)),
  item("Pulse meter, 1 L a pulse", {
    kind: "flowSensor",
    output: { type: "pulse", litresPerPulse: 1, sheetUnit: "L" },
  }),
  item("Pulse meter, 10 L a pulse", {
    kind: "flowSensor",
    output: { type: "pulse", litresPerPulse: 10, sheetUnit: "L" },
  }),
  item("Pulse meter, 10 gal a pulse", {
    kind: "flowSensor",
    output: { type: "pulse", litresPerPulse: 10 * LITRES_PER_US_GALLON, sheetUnit: "gal" },
  }),
  item("Screen or disc filter, clean", { kind: "fixedLoss", lossKpa: 20 }),
  item("Screen or disc filter, due for cleaning", { kind: "fixedLoss", lossKpa: 50 }),
  item("Pressure regulator at 50 psi", { kind: "regulator", setKpa: 345 }),
];
