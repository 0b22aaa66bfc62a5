"use client";
import { useConventions } from "@/components/kit/conventions";
import { BROKEN_LATERAL_SHARE, BROKEN_OUTLET_LPM } from "@/core/bench/faults/station-faults";

const OUTLETS = [
  ["spray", "spray head"],
  ["rotor", "rotor"],
  ["drip", "drip line"],
  ["bubbler", "bubbler"],
] as const;

/** What the signs of the jaw mean, drawn as they stand in it. */
export function JawKey({ graded }: { graded: boolean }) {
  const { quantity } = useConventions();
  const sign = (children: React.ReactNode) => (
    <svg viewBox="0 0 16 12" className="inline h-3 w-4 align-[-0.1em]" aria-hidden="true">
      {children}
    </svg>
  );
  return (
    <p className="mt-2 text-xs text-faint">
      {sign(<rect x="1" y="3" width="14" height="6" rx="3" fill="var(--water)" />)} learned ± 2 standard deviations ·{" "}
      {sign(<path d="M8 1l5 5-5 5-5-5Z" fill="var(--paper)" stroke="var(--water)" strokeWidth="1.5" />)} design ·{" "}
      {sign(<rect x="3" y="1" width="10" height="10" fill="none" stroke="var(--ink)" strokeWidth="1.5" />)} by hand ·{" "}
      {sign(<path d="M8 1l6 10H2Z" fill="var(--caution)" />)} a break that is seen ·{" "}
      {sign(<path d="M8 1l6 10H2Z" fill="var(--paper)" stroke="var(--caution)" strokeWidth="1.5" />)} one that passes
      unseen · hatched left: under the sensor's minimum; right: more than the supply's yield. One outlet:{" "}
      {OUTLETS.map(([emitter, word]) => `${quantity(BROKEN_OUTLET_LPM[emitter], "flow")} a ${word}`).join(", ")}; a
      lateral: {100 * BROKEN_LATERAL_SHARE} % of the station.{" "}
      {graded ? "" : "Drag the handles at the top to move all, a wall in a row to override it."}
    </p>
  );
}
