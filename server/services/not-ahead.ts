import { AppError } from "../app-error.ts";

/** A phone's clock may be ahead by so much, ms. */
const AHEAD_MS = 5 * 60_000;

/** That what somebody enters has happened already. */
export function mustHaveHappened(at: string | Date, now: Date): void {
  if (new Date(at).getTime() > now.getTime() + AHEAD_MS)
    throw new AppError("badRequest", "That is in the future. Look at date and time, and at the clock of this device.");
}
