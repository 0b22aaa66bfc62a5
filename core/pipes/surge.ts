import { findSeries, findSize } from "./pipe-table.ts";
import type { Pipe } from "../site-file/schema.ts";

/** Bulk modulus and density of water at 20 °C. */
const WATER_BULK_PA = 2.19e9;
const WATER_KG_M3 = 998.2;

/**
 * Speed of a pressure wave in a pipe, m/s: a = √((K/ρ) ÷ (1 + (K/E)·(D/e))), D inside diameter, e wall (Korteweg). Null where wall or
 * modulus is unknown.
 */
export function waveSpeedMs(pipe: Pick<Pipe, "material" | "series" | "nominal" | "insideDiameterMm">): number | null {
  const series = findSeries(pipe.material, pipe.series);
  const size = findSize(pipe.material, pipe.series, pipe.nominal);
  if (!series || !size) return null;
  const inside = pipe.insideDiameterMm ?? size.insideMm;
  return Math.sqrt(
    WATER_BULK_PA / WATER_KG_M3 / (1 + (WATER_BULK_PA / (series.modulusGpa * 1e9)) * (inside / size.wallMm)),
  );
}

/** Worst pressure rise when flow at `velocityMs` stops at once, kPa: Joukowsky, ΔP = ρ·a·Δv. A caution, never a guarantee. */
export function surgeKpa(waveMs: number, velocityMs: number): number {
  return (WATER_KG_M3 * waveMs * velocityMs) / 1000;
}

/** Pressure that the pipe's standard lets it carry, kPa; null where the table does not know the pipe. */
export function pipeRatingKpa(pipe: Pick<Pipe, "material" | "series" | "nominal">): number | null {
  return findSize(pipe.material, pipe.series, pipe.nominal)?.ratingKpa ?? null;
}
