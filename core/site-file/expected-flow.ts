import type { Station } from "./schema.ts";

export type FlowOrigin = "learned" | "entered" | "design";

/**
 * What a station should use now, L/min, and where the figure is from: the stored choice, else learned, else entered,
 * else design (handbook#7-learning). A chosen origin that holds no figure falls back the same way. Null: no figure at all.
 */
export function expectedFlow(station: Station): { lpm: number; from: FlowOrigin } | null {
  const figures: Record<FlowOrigin, number | undefined> = {
    learned: station.learned?.meanLpm,
    entered: station.enteredFlowLpm,
    design: station.designFlowLpm,
  };
  const order: FlowOrigin[] = ["learned", "entered", "design"];
  if (station.expectedFrom) order.unshift(station.expectedFrom);
  for (const from of order) {
    const lpm = figures[from];
    if (lpm !== undefined) return { lpm, from };
  }
  return null;
}
