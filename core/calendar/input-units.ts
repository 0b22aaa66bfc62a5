import type { SiteFile } from "../site-file/schema.ts";
import type { UnitSystem } from "../units/units.ts";

type Kind = NonNullable<SiteFile["weatherInputs"]>[number]["kind"];
/** How an input's readings are shown: shown = stored × perBase + plus. */
export type InputUnit = { label: string; perBase: number; plus: number };

/** Stored: rain mm, wind m/s, freeze and temperature °C, moisture %, a switch 0 or 1. */
export function inputUnit(kind: Kind, system: UnitSystem): InputUnit {
  const us = system === "us";
  switch (kind) {
    case "rain":
      return us ? { label: "in", perBase: 1 / 25.4, plus: 0 } : { label: "mm", perBase: 1, plus: 0 };
    case "wind":
      return us ? { label: "mph", perBase: 1 / 0.44704, plus: 0 } : { label: "m/s", perBase: 1, plus: 0 };
    case "freeze":
    case "temperature":
      return us ? { label: "°F", perBase: 1.8, plus: 32 } : { label: "°C", perBase: 1, plus: 0 };
    case "moisture":
      return { label: "%", perBase: 1, plus: 0 };
    case "switch":
      return { label: "0 or 1", perBase: 1, plus: 0 };
  }
}

export function inputToShown(value: number, unit: InputUnit): number {
  return value * unit.perBase + unit.plus;
}

export function inputFromShown(value: number, unit: InputUnit): number {
  return (value - unit.plus) / unit.perBase;
}
