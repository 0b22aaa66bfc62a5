/** How long a condition has lasted without a break, and whether it has been told already. */
export type Persistence = { count: number; told: boolean };

export const CALM: Persistence = { count: 0, told: false };

/**
 * One reading more. Trips at the end of the persistence-th reading beyond without a break, once for one unbroken
 * condition; one reading back inside starts the count afresh (handbook 8). `persistenceS` 0 trips at once.
 */
export function countBeyond(state: Persistence, beyond: boolean, persistenceS: number): { state: Persistence; trips: boolean } {
  if (!beyond) return { state: CALM, trips: false };
  const count = state.count + 1;
  const trips = !state.told && count >= persistenceS;
  return { state: { count, told: state.told || trips }, trips };
}
