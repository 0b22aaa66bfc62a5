import { nth } from "../checked.ts";
import { KPA_PER_PSI, MM_PER_INCH } from "../units/units.ts";

/**
 * Real inside diameters, worked from the standards' outside diameter and minimum wall:
 * inside = outside − 2 × wall. Minimum wall gives the largest bore the standard allows; makers' pipe is a little
 * tighter, so a measured `insideDiameterMm` in the site file always wins over this table.
 */
export type PipeSeries = {
  material: string;
  series: string;
  standard: string;
  hazenWilliamsC: number;
  /** Young's modulus for a quick pressure change, GPa. */
  modulusGpa: number;
  /** `ratingKpa`: pressure that the standard lets the size carry at 23 °C (20 °C for metric pipe), kPa. */
  sizes: { nominal: string; outsideMm: number; wallMm: number; insideMm: number; ratingKpa: number }[];
};

type Row = [nominal: number, outside: number, wall: number];

/** Iron-pipe-size outside diameters, inches (ASTM D1785, D2241, D3035). */
const IRON_PIPE_OD: [number, number][] = [
  [0.5, 0.84],
  [0.75, 1.05],
  [1, 1.315],
  [1.25, 1.66],
  [1.5, 1.9],
  [2, 2.375],
  [2.5, 2.875],
  [3, 3.5],
  [4, 4.5],
  [6, 6.625],
  [8, 8.625],
  [10, 10.75],
  [12, 12.75],
];
const SCH40_WALL = [0.109, 0.113, 0.133, 0.14, 0.145, 0.154, 0.203, 0.216, 0.237, 0.28, 0.322, 0.365, 0.406];
const SCH80_WALL = [0.147, 0.154, 0.179, 0.191, 0.2, 0.218, 0.276, 0.3, 0.337, 0.432, 0.5, 0.593, 0.687];

const scheduleRows = (walls: number[]): Row[] => IRON_PIPE_OD.map(([n, od], i) => [n, od, nth(walls, i)]);
/** Dimension-ratio pipe: wall = outside ÷ ratio to 0.001 in, never under the standard's least wall of 0.060 in. */
const ratioRows = (ratio: number, from: number): Row[] =>
  IRON_PIPE_OD.filter(([n]) => n >= from).map(([n, od]) => [
    n,
    od,
    Math.max(0.06, Math.round((od / ratio) * 1000) / 1000),
  ]);

const COPPER_L: Row[] = [
  [0.5, 0.625, 0.04],
  [0.75, 0.875, 0.045],
  [1, 1.125, 0.05],
  [1.25, 1.375, 0.055],
  [1.5, 1.625, 0.06],
  [2, 2.125, 0.07],
  [2.5, 2.625, 0.08],
  [3, 3.125, 0.09],
  [4, 4.125, 0.11],
  [6, 6.125, 0.14],
  [8, 8.125, 0.2],
];

const metricRows = (walls: Record<number, number>): Row[] =>
  Object.entries(walls).map(([n, w]) => [Number(n), Number(n), w]);
const PVCU_PN10 = {
  32: 1.6,
  40: 1.9,
  50: 2.4,
  63: 3.0,
  75: 3.6,
  90: 4.3,
  110: 4.2,
  125: 4.8,
  140: 5.4,
  160: 6.2,
  180: 6.9,
  200: 7.7,
  225: 8.6,
  250: 9.6,
  280: 10.7,
  315: 12.1,
};
const PVCU_PN16 = {
  25: 1.9,
  32: 2.4,
  40: 3.0,
  50: 3.7,
  63: 4.7,
  75: 5.6,
  90: 6.7,
  110: 6.6,
  125: 7.4,
  140: 8.3,
  160: 9.5,
  180: 10.7,
  200: 11.9,
  225: 13.4,
  250: 14.8,
  280: 16.6,
  315: 18.7,
};
const PE100_PN10 = {
  32: 2.0,
  40: 2.4,
  50: 3.0,
  63: 3.8,
  75: 4.5,
  90: 5.4,
  110: 6.6,
  125: 7.4,
  140: 8.3,
  160: 9.5,
  180: 10.7,
  200: 11.9,
  225: 13.4,
  250: 14.8,
  280: 16.6,
  315: 18.7,
};
const PE100_PN16 = {
  25: 2.3,
  32: 3.0,
  40: 3.7,
  50: 4.6,
  63: 5.8,
  75: 6.8,
  90: 8.2,
  110: 10.0,
  125: 11.4,
  140: 12.7,
  160: 14.6,
  180: 16.4,
  200: 18.2,
  225: 20.5,
  250: 22.7,
  280: 25.4,
  315: 28.6,
};

/** Design stress of the inch standards, kPa: PVC 1120 2,000 psi; PE 800 psi; annealed copper 6,000 psi. Metric pipe: its PN × 100 kPa. */
const DESIGN_STRESS_KPA: Record<string, number> = {
  PVC: 2000 * KPA_PER_PSI,
  PE: 800 * KPA_PER_PSI,
  Copper: 6000 * KPA_PER_PSI,
};
const MODULUS_GPA: Record<string, number> = { PVC: 2.8, "PVC-U": 3.0, PE: 0.9, PE100: 1.1, Copper: 117 };

/** P = 2·S·t ÷ (D − t) for plastics, ÷ (D − 0.8 t) for copper tube (the standards' own pressure formula). */
function ratingKpa(material: string, name: string, od: number, wall: number): number {
  const pn = /^PN(\d+)$/.exec(name);
  if (pn) return Number(pn[1]) * 100;
  return (2 * (DESIGN_STRESS_KPA[material] as number) * wall) / (od - (material === "Copper" ? 0.8 : 1) * wall);
}

function series(
  material: string,
  name: string,
  standard: string,
  c: number,
  unit: "in" | "mm",
  rows: Row[],
): PipeSeries {
  const scale = unit === "in" ? MM_PER_INCH : 1;
  return {
    material,
    series: name,
    standard,
    hazenWilliamsC: c,
    modulusGpa: MODULUS_GPA[material] as number,
    sizes: rows.map(([n, od, wall]) => ({
      nominal: `${n} ${unit}`,
      outsideMm: od * scale,
      wallMm: wall * scale,
      insideMm: (od - 2 * wall) * scale,
      ratingKpa: ratingKpa(material, name, od, wall),
    })),
  };
}

/** Every pipe Presa knows by name, with the standard its dimensions come from. */
export const PIPE_TABLE: PipeSeries[] = [
  series("PVC", "SCH40", "ASTM D1785", 150, "in", scheduleRows(SCH40_WALL)),
  series("PVC", "SCH80", "ASTM D1785", 150, "in", scheduleRows(SCH80_WALL)),
  series("PVC", "SDR21", "ASTM D2241", 150, "in", ratioRows(21, 0.75)),
  series("PVC", "SDR26", "ASTM D2241", 150, "in", ratioRows(26, 1)),
  series("PE", "SDR11", "ASTM D3035", 150, "in", ratioRows(11, 0.75)),
  series("PE", "SDR17", "ASTM D3035", 150, "in", ratioRows(17, 1)),
  series("Copper", "L", "ASTM B88", 140, "in", COPPER_L),
  series("PVC-U", "PN10", "ISO 1452-2", 150, "mm", metricRows(PVCU_PN10)),
  series("PVC-U", "PN16", "ISO 1452-2", 150, "mm", metricRows(PVCU_PN16)),
  series("PE100", "PN10", "ISO 4427-2", 150, "mm", metricRows(PE100_PN10)),
  series("PE100", "PN16", "ISO 4427-2", 150, "mm", metricRows(PE100_PN16)),
];

const plain = (text: string): string => text.toLowerCase().replace(/[\s._-]/g, "");

/** "2 1/2 in", "2-1/2 in", `2.5"` and "2.5 in" are one size; "63 mm", "DN63" and "63" too. Null: not a size. */
function nominalNumber(text: string): number | null {
  const cleaned = text
    .toLowerCase()
    .replace(/["”]|in(ch)?(es)?\b|mm|dn/g, "")
    .trim();
  const mixed = /^(?:(\d+)[\s-]+)?(\d+)\/(\d+)$/.exec(cleaned);
  if (mixed) return Number(mixed[1] ?? 0) + Number(mixed[2]) / Number(mixed[3]);
  const value = Number(cleaned);
  return cleaned !== "" && Number.isFinite(value) ? value : null;
}

export function findSeries(material: string, seriesName: string): PipeSeries | null {
  return PIPE_TABLE.find((s) => plain(s.material) === plain(material) && plain(s.series) === plain(seriesName)) ?? null;
}

const SIZES = new Map<string, PipeSeries["sizes"][number] | null>();

/** One size of the table; null when the table does not hold this pipe. */
export function findSize(material: string, seriesName: string, nominal: string): PipeSeries["sizes"][number] | null {
  const key = `${material}\n${seriesName}\n${nominal}`;
  let size = SIZES.get(key);
  if (size === undefined) {
    // The bench asks for the same few pipes every second of a night; whatever else is typed is not kept for ever.
    if (SIZES.size > 5000) SIZES.clear();
    size = readSize(material, seriesName, nominal);
    SIZES.set(key, size);
  }
  return size;
}

function readSize(material: string, seriesName: string, nominal: string): PipeSeries["sizes"][number] | null {
  const wanted = nominalNumber(nominal);
  return findSeries(material, seriesName)?.sizes.find((s) => nominalNumber(s.nominal) === wanted) ?? null;
}

/** Inside diameter in mm from the table; null when the table does not hold this pipe. */
export function tableInsideDiameterMm(material: string, seriesName: string, nominal: string): number | null {
  return findSize(material, seriesName, nominal)?.insideMm ?? null;
}

/** What the size is called, in mm: for showing how wrong it would be as an inside diameter. */
export function nominalMm(nominal: string): number | null {
  const value = nominalNumber(nominal);
  if (value === null) return null;
  return /mm|dn/i.test(nominal) ? value : value * MM_PER_INCH;
}

/** Hazen–Williams C of materials that the table does not hold, by what they are called (handbook#5-ceilings). Old steel before steel. */
const CALLED: [RegExp, number][] = [
  [/old.*steel|steel.*old/, 100],
  [/steel|galvani[sz]ed/, 120],
  [/iron/, 130],
  [/copper|brass/, 140],
  [/pvc|pe\b|hdpe|ldpe|poly|plastic/, 150],
];
/** Taken where nobody knows the material. */
const UNKNOWN_C = 150;

/** Hazen–Williams C of a pipe: its own, else its material's; 150 where the material is not known either. */
export function pipeC(pipe: { material: string; hazenWilliamsC?: number | undefined }): number {
  return pipe.hazenWilliamsC ?? materialC(pipe.material) ?? UNKNOWN_C;
}

/** Nobody states the pipe's C, and its material tells none: 150 is only taken. */
export const isCAssumed = (pipe: { material: string; hazenWilliamsC?: number | undefined }): boolean =>
  pipe.hazenWilliamsC === undefined && materialC(pipe.material) === null;

const MATERIALS = new Map<string, number | null>();

function materialC(material: string): number | null {
  let c = MATERIALS.get(material);
  if (c === undefined) {
    if (MATERIALS.size > 500) MATERIALS.clear();
    c =
      PIPE_TABLE.find((s) => plain(s.material) === plain(material))?.hazenWilliamsC ??
      CALLED.find(([words]) => words.test(material.toLowerCase()))?.[1] ??
      null;
    MATERIALS.set(material, c);
  }
  return c;
}
