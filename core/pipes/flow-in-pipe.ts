/** Flow in L/min at velocity `vMs` (m/s) through inside diameter `dMm` (mm): Q = v·π d²/4 (handbook#4-sensors). */
export function flowAtVelocityLpm(vMs: number, dMm: number): number {
  const areaM2 = (Math.PI * (dMm / 1000) ** 2) / 4;
  return vMs * areaM2 * 60_000;
}

/** Velocity in m/s of `flowLpm` through inside diameter `dMm`; the inverse of {@link flowAtVelocityLpm}. */
export function velocityMs(flowLpm: number, dMm: number): number {
  return flowLpm / flowAtVelocityLpm(1, dMm);
}

/**
 * Friction loss in m of water, Hazen–Williams (handbook#5-ceilings): h = 10.67·L·Q^1.852 / (C^1.852·d^4.8704),
 * Q in m³/s, L and d in m. Zero flow loses nothing.
 */
export function frictionLossM(flowLpm: number, lengthM: number, dMm: number, c: number): number {
  const q = Math.abs(flowLpm) / 60_000;
  return (10.67 * lengthM * q ** 1.852) / (c ** 1.852 * (dMm / 1000) ** 4.8704);
}

/** Water held by a full pipe, litres. */
export function pipeVolumeL(lengthM: number, dMm: number): number {
  return (Math.PI / 4) * (dMm / 1000) ** 2 * lengthM * 1000;
}
