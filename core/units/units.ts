/** Exact conversion factors (handbook#3-units). Everything inside Presa is L/min, kPa, m, mm, L, s, m/s; m³ for weeks and budgets, m² and mm/h for ground and rain. */
export const LITRES_PER_US_GALLON = 3.785411784;
export const KPA_PER_PSI = 6.894757293;
export const METRES_PER_FOOT = 0.3048;
export const MM_PER_INCH = 25.4;
export const M2_PER_SQUARE_FOOT = METRES_PER_FOOT ** 2;
export const KPA_PER_METRE_OF_WATER = 9.80665;

export type UnitSystem = "us" | "metric";
export type Quantity =
  | "flow"
  | "pressure"
  | "length"
  | "diameter"
  | "volume"
  | "bulk"
  | "velocity"
  | "area"
  | "depth"
  | "rainRate";

type Unit = { label: string; perBase: number; digits: number };

const UNITS: Record<UnitSystem, Record<Quantity, Unit>> = {
  metric: {
    flow: { label: "L/min", perBase: 1, digits: 0 },
    pressure: { label: "kPa", perBase: 1, digits: 0 },
    length: { label: "m", perBase: 1, digits: 1 },
    diameter: { label: "mm", perBase: 1, digits: 1 },
    volume: { label: "L", perBase: 1, digits: 0 },
    bulk: { label: "m³", perBase: 1, digits: 1 },
    velocity: { label: "m/s", perBase: 1, digits: 2 },
    area: { label: "m²", perBase: 1, digits: 0 },
    depth: { label: "mm", perBase: 1, digits: 1 },
    rainRate: { label: "mm/h", perBase: 1, digits: 1 },
  },
  us: {
    flow: { label: "gal/min", perBase: 1 / LITRES_PER_US_GALLON, digits: 1 },
    pressure: { label: "psi", perBase: 1 / KPA_PER_PSI, digits: 1 },
    length: { label: "ft", perBase: 1 / METRES_PER_FOOT, digits: 0 },
    diameter: { label: "in", perBase: 1 / MM_PER_INCH, digits: 3 },
    volume: { label: "gal", perBase: 1 / LITRES_PER_US_GALLON, digits: 0 },
    bulk: { label: "kgal", perBase: 1 / LITRES_PER_US_GALLON, digits: 1 },
    velocity: { label: "ft/s", perBase: 1 / METRES_PER_FOOT, digits: 2 },
    area: { label: "ft²", perBase: 1 / M2_PER_SQUARE_FOOT, digits: 0 },
    depth: { label: "in", perBase: 1 / MM_PER_INCH, digits: 2 },
    rainRate: { label: "in/h", perBase: 1 / MM_PER_INCH, digits: 2 },
  },
};

/** The unit's label in a system, e.g. `L/min`. */
export function unitLabel(quantity: Quantity, system: UnitSystem): string {
  return UNITS[system][quantity].label;
}

/** Base units → shown units; nothing is rounded. */
export function toShown(value: number, quantity: Quantity, system: UnitSystem): number {
  return value * UNITS[system][quantity].perBase;
}

/** Shown units → base units; the inverse of {@link toShown}. */
export function fromShown(value: number, quantity: Quantity, system: UnitSystem): number {
  return value / UNITS[system][quantity].perBase;
}

/** A figure with its unit for people, e.g. `1,240 L/min`; digits grow for small values so that 0.6 is not "1". */
export function showQuantity(value: number, quantity: Quantity, system: UnitSystem, digits?: number): string {
  const unit = UNITS[system][quantity];
  return `${showNumber(toShown(value, quantity, system), digits ?? unit.digits)} ${unit.label}`;
}

/** Making a number format costs more than using it a hundred times: one is made for each number of decimals. */
const formats = new Map<string, Intl.NumberFormat>();

/** A number with grouping, at most `digits` decimals and at least `least`. */
export function showNumber(value: number, digits = 0, least = 0): string {
  const key = `${least}/${digits}`;
  const format =
    formats.get(key) ?? new Intl.NumberFormat("en-US", { maximumFractionDigits: digits, minimumFractionDigits: least });
  formats.set(key, format);
  return format.format(value);
}
