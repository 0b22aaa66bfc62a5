import type { Fitting } from "@/core/summary/fitting";

/** Room inside the drawn fitting, in its own units. */
const [TOP, BOTTOM] = [6, 24];

/**
 * A fitting of the pipe: how full it stands is how far the step is known, a seal says that it is proven, a crack that it was and something under it has changed. Shape
 * carries all of it; colour repeats it.
 */
export function FittingPicture({ fitting, here }: { fitting: Fitting; here: boolean }) {
  const { state, fill } = fitting;
  const level = BOTTOM - (BOTTOM - TOP) * (state === "empty" ? 0 : fill);
  return (
    <svg viewBox="0 0 30 32" className="h-8 w-[30px]" aria-hidden="true">
      <rect x="7" y="3" width="16" height="26" fill="var(--paper)" />
      {state !== "empty" && <rect x="8" y={level} width="14" height={BOTTOM + 2 - level} fill="var(--water)" />}
      {state === "cracked" && (
        <path
          d="M17 4 l-4 8 l5 3 l-5 5 l3 8"
          fill="none"
          stroke="var(--paper)"
          strokeWidth="3.2"
          strokeLinejoin="round"
        />
      )}
      <g fill="none" stroke="var(--ink)" strokeWidth={here ? 2 : 1.4}>
        <path d="M4 2v28M26 2v28" strokeWidth={here ? 3 : 2.4} />
        <path d="M7 5h16v22H7z" />
      </g>
      {state === "full" && <circle cx="24" cy="6" r="4.6" fill="var(--ink)" stroke="var(--paper)" strokeWidth="1.4" />}
    </svg>
  );
}
