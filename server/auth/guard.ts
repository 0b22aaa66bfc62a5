import { AppError, normalise } from "../app-error.ts";
import type { Role } from "../db/users.ts";
import { log } from "../log.ts";
import { type SignedIn, signedIn } from "./session.ts";

const RANK: Record<Role, number> = { viewer: 0, technician: 1, manager: 2 };
/** Largest request body, bytes: a 10,000-station site file fits, a 20 MB file does not. */
const MAX_BODY = 8 * 1024 * 1024;

type Shape<T> = { parse: (value: unknown) => T; safeParse: (value: unknown) => { success: boolean; data?: T } };
/** What a route takes: the parts of its address, and its body as JSON. What is not named is not read. */
type Shapes<P, B> = { params?: Shape<P>; body?: Shape<B> };
type RouteContext<P, B> = { user: SignedIn; params: P; body: B; request: Request };

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
    answered(async () => {
      sameOrigin(request);
      const user = await signedIn();
      if (!user) throw new AppError("notSignedIn", "Sign in first.");
      if (RANK[user.role] < RANK[least])
        throw new AppError("notAllowed", `Your role (${user.role}) may look but not do this. Ask a ${least}.`);
      const at = params?.safeParse(await extra.params);
      if (at && !at.success) throw new AppError("notFound", "There is nothing at this address.");
      return handle({
        user,
        params: at?.data as P,
        body: (body ? body.parse(await bodyJson(request)) : undefined) as B,
        request,
      });
    });
}

/** For the sign-in route only: everything of the gate but the session. */
export function open(handle: (request: Request) => Promise<Response | unknown>) {
  return async (request: Request): Promise<Response> =>
    answered(async () => {
      sameOrigin(request);
      return handle(request);
    });
}

async function answered(work: () => Promise<Response | unknown>): Promise<Response> {
  try {
    const result = await work();
    return result instanceof Response ? result : Response.json(result ?? { ok: true });
  } catch (thrown) {
    const error = normalise(thrown);
    if (error.code === "internal") log.error({ err: thrown }, "request failed");
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
export async function bodyText(request: Request): Promise<string> {
  const declared = Number(request.headers.get("content-length") ?? 0);
  const tooLarge = (): AppError =>
    new AppError(
      "tooLarge",
      `The file is larger than ${MAX_BODY / 1024 / 1024} MB. A site file of 10,000 stations is about 4 MB; this is something else.`,
    );
  if (declared > MAX_BODY) throw tooLarge();
  const reader = request.body?.getReader();
  if (!reader) return "";
  const chunks: Uint8Array[] = [];
  let size = 0;
  for (;;) {
    const { done, value } = await reader.read();
    if (done) break;
    size += value.byteLength;
    if (size > MAX_BODY) {
      await reader.cancel();
      throw tooLarge();
    }
    chunks.push(value);
  }
  return new TextDecoder().decode(Buffer.concat(chunks));
}

export async function bodyJson(request: Request): Promise<unknown> {
  const text = await bodyText(request);
  try {
    return JSON.parse(text);
  } catch {
    throw new AppError("badRequest", "The request body is not JSON.");
  }
}
