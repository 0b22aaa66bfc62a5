/** What the signs of the jaw mean, drawn as they stand in it. */
export function JawKey({ graded }: { graded: boolean }) {
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
      unseen · hatched left: under the sensor's minimum; right: more than the supply's yield. One outlet: 15 L/min a
      spray head, 45 a rotor, 8 a drip line, 12 a bubbler; a lateral: 60 % of the station.{" "}
      {graded ? "" : "Drag the handles at the top to move all, a wall in a row to override it."}
    </p>
  );
}
