import { type IncomingMessage, Server, type ServerResponse } from "node:http";

/** Set by this process on every request, from the connection itself; whatever a client says there is written over. */
const PEER = "x-presa-peer";

/** A request of which nothing comes for so long before it is whole is given up, ms. */
const STALLS_MS = 15_000;

/** Whoever sends a body and stops in the middle is not waited for. An answer may take its time, and a stream be still. */
function endStalled(request: IncomingMessage, response: ServerResponse): void {
  const { socket } = request;
  let read = socket.bytesRead;
  const watch = setInterval(() => {
    if (request.complete) clearInterval(watch);
    else if (socket.bytesRead === read) socket.destroy();
    read = socket.bytesRead;
  }, STALLS_MS).unref();
  response.once("close", () => clearInterval(watch));
}

/** The sealed session in a Cookie header, whatever it is worth. */
export const sealedSession = (cookie: string | null | undefined): string | undefined =>
  /presa_session=([^;]{20,})/.exec(cookie ?? "")?.[1];

/** Requests and streams open at once of one session, or of one address that has none. */
const MOST_OPEN = 80;
const openOf = new Map<string, number>();

/** Refuses what is over {@link MOST_OPEN} before anything is done for it; true when it did. */
function tooMany(request: IncomingMessage, response: ServerResponse): boolean {
  const session = sealedSession(request.headers.cookie);
  // All of a proxy's requests come from one address.
  if (session === undefined && proxies() > 0) return false;
  const whose = session ?? request.socket.remoteAddress ?? "unknown";
  const now = openOf.get(whose) ?? 0;
  if (now >= MOST_OPEN) {
    const words = "Too many requests of yours are open at once. Wait for some of them.";
    response.writeHead(429, { "content-type": "application/json", "cache-control": "no-store" });
    response.end(JSON.stringify({ error: { code: "tooManyTries", message: words } }));
    return true;
  }
  openOf.set(whose, now + 1);
  response.once("close", () => {
    const left = (openOf.get(whose) ?? 1) - 1;
    if (left > 0) openOf.set(whose, left);
    else openOf.delete(whose);
  });
  return false;
}

/** From now on every request of this process says which address its connection comes from, and has to arrive. */
export function watchConnections(): void {
  const emit = Server.prototype.emit;
  Server.prototype.emit = function marked(this: Server, event: string | symbol, ...args: unknown[]): boolean {
    if (event === "request") {
      const [request, response] = args as [IncomingMessage, ServerResponse];
      request.headers[PEER] = request.socket.remoteAddress ?? "unknown";
      if (tooMany(request, response)) return true;
      if (!request.complete) endStalled(request, response);
    }
    return emit.call(this, event, ...args);
  };
}

/** How many proxies of the operator's own write X-Forwarded-For. */
const proxies = (): number =>
  Math.max(0, Math.min(10, Math.trunc(Number(process.env["PRESA_TRUSTED_PROXIES"] ?? 0)) || 0));

/**
 * Where a request comes from. What X-Forwarded-For says counts only where the operator says how many proxies of theirs write it (PRESA_TRUSTED_PROXIES): the last of it is
 * the nearest proxy's.
 */
export function addressOf(request: Request): string {
  const peer = request.headers.get(PEER) ?? "unknown";
  const trusted = proxies();
  if (trusted === 0) return peer;
  const through = (request.headers.get("x-forwarded-for") ?? "").split(",").map((a) => a.trim());
  return through[through.length - trusted] || peer;
}

/** Where a request comes from, and what the browser says of itself. */
export const fromOf = (request: Request): { address: string; agent: string | null } => ({
  address: addressOf(request),
  agent: request.headers.get("user-agent"),
});

const LOOPBACK = new Set(["127.0.0.1", "::1", "::ffff:127.0.0.1"]);

/** From this machine itself, not through a proxy; or with the operator's token (PRESA_METRICS_TOKEN). */
export function isOperators(request: Request): boolean {
  const token = process.env["PRESA_METRICS_TOKEN"];
  if (token && request.headers.get("authorization") === `Bearer ${token}`) return true;
  const forwarded = request.headers.get("x-forwarded-for");
  const direct = forwarded === null || LOOPBACK.has(forwarded);
  return direct && LOOPBACK.has(request.headers.get(PEER) ?? "");
}
