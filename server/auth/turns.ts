import { Fair } from "../fair.ts";
import { addressOf, sealedSession } from "./address.ts";

/** Requests being answered at once in this process, those of one organisation among them, and how many of it wait for their turn. */
const turns = new Fair({ places: 240, most: 60, waiting: 400, what: "requests" });
/** Whose a session's cookie is, once it is known: many sessions of one organisation are one in line. */
const known = new Map<string, string>();
const MOST_KNOWN = 20_000;

/**
 * Waits for a turn: organisations are served in turn, whoever asks how often; who is not known yet waits with all others of their address. Who has gone meanwhile is not
 * answered.
 *
 * @returns leaves it
 */
export async function takeTurn(request: Request): Promise<() => void> {
  const session = sealedSession(request.headers.get("cookie"));
  const line = session === undefined ? undefined : known.get(session);
  return turns.enter(line ?? `from ${addressOf(request)}`, request.signal);
}

/** From now on this request's session waits in its organisation's line. */
export function noteLine(request: Request, organisationId: string): void {
  const session = sealedSession(request.headers.get("cookie"));
  if (session === undefined || known.has(session)) return;
  if (known.size >= MOST_KNOWN) known.clear();
  known.set(session, organisationId);
}
