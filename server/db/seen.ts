import { AppError } from "../app-error.ts";

/** Who last kept something, and when. */
export type Kept = { keptAt: Date; keptByName: string };

/**
 * Refuses to write over what somebody else has kept meanwhile.
 *
 * @param there what is kept under that name now, locked; none: it is new
 * @param seen when what the writer saw was kept, ISO 8601; null: they saw none
 */
export function unchangedSince(there: Kept | undefined, seen: string | null, name: string): void {
  if (!there || there.keptAt.toISOString() === seen) return;
  const words = seen === null ? `"${name}" is there already, kept by` : `"${name}" has been changed meanwhile by`;
  throw new AppError("conflict", `${words} ${there.keptByName}. Look at it as it is now, then keep yours.`);
}
