import { LITRES_PER_US_GALLON } from "../units/units.ts";

/** Units of flow that recorders and lists use; L/min in one of each. */
export const FLOW_UNITS = { "L/min": 1, "gal/min": LITRES_PER_US_GALLON, "m³/h": 1000 / 60, "L/s": 60 } as const;
export type FlowUnit = keyof typeof FLOW_UNITS;

/** The unit that a heading names, if it does. */
export function unitInHeading(heading: string): FlowUnit | null {
  const h = heading.toLowerCase().replaceAll(" ", "");
  if (/gpm|gal\/min|usgal/.test(h)) return "gal/min";
  if (/m3\/h|m³\/h|cbm\/h/.test(h)) return "m³/h";
  if (/l\/s|lps/.test(h)) return "L/s";
  return /l\/min|lpm|l\/m(?!\w)/.test(h) ? "L/min" : null;
}
