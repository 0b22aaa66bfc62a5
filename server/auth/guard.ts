import { randomUUID } from "node:crypto";
import { AppError, normalise } from "../app-error.ts";
import type { Role } from "../../contracts/people.ts";
import { log } from "../log.ts";
import { noteRequest } from "../metrics.ts";
import { noteLine, takeTurn } from "./turns.ts";
import { asUser, type InSession, sessionWasEnded, type SignedIn, signedIn } from "./session.ts";

const RANK: Record<Role, number> = { viewer: 0, technician: 1, manager: 2 };
/** Largest request body, bytes: a 10,000-station site file fits, a 20 MB file does not. */
const MAX_BODY = 8 * 1024 * 1024;
/** A body of which nothing arrives for so long is given up, ms. */
const STALLS_MS = 15_000;
/** However steadily it drips: a body that takes longer keeps others waiting, ms. */
const LONGEST_MS = 5 * 60_000;

/** What never changes under its address may be kept by the browser, which asks each time whether it may still be seen. */
export const ASK_EACH_TIME = "private, no-cache";

type Shape<T> = { parse: (value: unknown) => T; safeParse: (value: unknown) => { success: boolean; data?: T } };
/** What a route takes: the parts of its address, and its body as JSON. What is not named is not read. */
type Shapes<P, B> = { params?: Shape<P>; body?: Shape<B> };
type RouteContext<P, B> = { user: InSession; params: P; body: B; request: Request };

/**
 * The one gate of every route: session, role, same origin for writes, address and body of the right shape, errors as codes. `least` is the lowest role
 * that may pass; organisations are kept apart by every query taking the user's organisation.
 */
export function guarded<P = undefined, B = undefined>(
  least: Role,
  { params, body }: Shapes<P, B>,
  handle: (context: RouteContext<P, B>) => Promise<Response | unknown>,
) {
  return async (request: Request, extra: { params: Promise<unknown> }): Promise<Response> =>
    answered(request, async (who) => {
      sameOrigin(request);
      const user = await signedIn();
      if (user) noteLine(request, user.organisationId);
      if (!user) throw new AppError("notSignedIn", "Sign in first.", { ended: await sessionWasEnded() });
      if (RANK[user.role] < RANK[least])
        throw new AppError("notAllowed", `Your role (${user.role}) may look but not do this. Ask a ${least}.`);
      who.user = user;
      const at = params?.safeParse(await extra.params);
      if (at && !at.success) throw new AppError("notFound", "There is nothing at this address.");
      const asked = (body ? body.parse(await bodyJson(request)) : undefined) as B;
      return asUser(user, async () => handle({ user, params: at?.data as P, body: asked, request }));
    });
}

/** For signing in and joining only: everything of the gate but the session. */
export function open<P = unknown>(handle: (request: Request, params: P) => Promise<Response | unknown>) {
  return async (request: Request, extra?: { params: Promise<P> }): Promise<Response> =>
    answered(request, async () => {
      sameOrigin(request);
      return handle(request, (await extra?.params) as P);
    });
}

/** Of these addresses the last part opens a door by itself. */
const SECRET_PART = /^(\/api\/(?:joining|calendar)\/).+/;

/** One line of the log and one figure of the metrics a request: who, what, how long; no body, no query, no cookie. */
async function answered(
  request: Request,
  work: (who: { user?: SignedIn }) => Promise<Response | unknown>,
): Promise<Response> {
  const id = randomUUID();
  const began = performance.now();
  const who: { user?: SignedIn } = {};
  const response = await respond(async () => {
    const leave = await takeTurn(request);
    try {
      return await work(who);
    } finally {
      leave();
    }
  }, id);
  const ms = performance.now() - began;
  noteRequest(request.method, response.status, ms / 1000);
  log.info(
    {
      request: id,
      method: request.method,
      path: new URL(request.url).pathname.replace(SECRET_PART, "$1…"),
      status: response.status,
      ms: Math.round(ms),
      organisation: who.user?.organisationId,
      user: who.user?.userId,
    },
    "request",
  );
  response.headers.set("x-request-id", id);
  if (response.headers.get("cache-control") !== ASK_EACH_TIME) response.headers.set("cache-control", "no-store");
  return response;
}

async function respond(work: () => Promise<Response | unknown>, id: string): Promise<Response> {
  try {
    const result = await work();
    return result instanceof Response ? result : Response.json(result ?? { ok: true });
  } catch (thrown) {
    const error = normalise(thrown);
    if (error.code === "internal") log.error({ err: thrown, request: id }, "request failed");
    return Response.json(
      { error: { code: error.code, message: error.message, ...error.details } },
      { status: error.status },
    );
  }
}

function sameOrigin(request: Request): void {
  if (request.method === "GET" || request.method === "HEAD") return;
  const origin = request.headers.get("origin");
  // A page without an origin of its own says "null", which is nobody's host.
  const from = origin === null || !URL.canParse(origin) ? null : new URL(origin).host;
  if (origin !== null && from !== request.headers.get("host"))
    throw new AppError("notAllowed", "This request came from another site.");
}

/** The body as text, refused while it is still coming in once it is too large. */
export async function bodyText(request: Request, most = MAX_BODY): Promise<string> {
  const tooLarge =
    most === MAX_BODY
      ? `The file is larger than ${MAX_BODY / 1024 / 1024} MB. A site file of 10,000 stations is about 4 MB; this is something else.`
      : `The request is larger than ${most} bytes; there is no such thing to ask for here.`;
  const text = new TextDecoder().decode(await bodyBytes(request, most, tooLarge));
  // No text of ours holds it, and the database keeps none that does.
  if (text.includes("\u0000") || text.includes("\\u0000"))
    throw new AppError("badRequest", "The request holds the character NUL, which no text may hold.");
  return text;
}

/** The body as it comes, refused in the words of `tooLarge` while it is still coming in once it is too large. */
export async function bodyBytes(request: Request, most: number, tooLarge: string): Promise<Buffer> {
  const declared = Number(request.headers.get("content-length") ?? 0);
  if (declared > most) throw new AppError("tooLarge", tooLarge);
  const reader = request.body?.getReader();
  if (!reader) return Buffer.alloc(0);
  const began = performance.now();
  const chunks: Uint8Array[] = [];
  let size = 0;
  for (;;) {
    const { done, value } = await arrives(reader);
    if (done) break;
    size += value.byteLength;
    if (performance.now() - began > LONGEST_MS) {
      await reader.cancel();
      throw new AppError("badRequest", `It was still coming after ${LONGEST_MS / 60_000} minutes; send it again.`);
    }
    if (size > most) {
      await reader.cancel();
      throw new AppError("tooLarge", tooLarge);
    }
    chunks.push(value);
  }
  return Buffer.concat(chunks);
}

/** The next piece; a sender that stalls is not waited for. */
async function arrives(reader: ReadableStreamDefaultReader<Uint8Array>): Promise<ReadableStreamReadResult<Uint8Array>> {
  let stalled: ReturnType<typeof setTimeout> | undefined;
  const late = new Promise<never>((_, no) => {
    stalled = setTimeout(
      () => no(new AppError("badRequest", `Nothing came for ${STALLS_MS / 1000} s; send it again.`)),
      STALLS_MS,
    );
  });
  try {
    return await Promise.race([reader.read(), late]);
  } catch (error) {
    await reader.cancel().catch(() => {});
    throw error;
  } finally {
    clearTimeout(stalled);
  }
}

export async function bodyJson(request: Request, most = MAX_BODY): Promise<unknown> {
  const text = await bodyText(request, most);
  try {
    return JSON.parse(text);
  } catch {
    throw new AppError("badRequest", "The request body is not JSON.");
  }
}
