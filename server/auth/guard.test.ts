import { afterEach, beforeEach, describe, expect, it, vi } from "vitest";
import { z } from "zod";
import { AppError } from "../app-error.ts";
import type { Role } from "../../contracts/people.ts";
import { bodyJson, bodyText, guarded, open } from "./guard.ts";
import { sessionWasEnded, signedIn } from "./session.ts";

vi.mock("./session.ts", async (original) => ({
  ...(await original<typeof import("./session.ts")>()),
  signedIn: vi.fn(),
  sessionWasEnded: vi.fn(async () => false),
}));
vi.mock("../log.ts", () => ({ log: { error: vi.fn(), info: vi.fn() } }));

const as = (role: Role | null): void => {
  vi.mocked(signedIn).mockResolvedValue(
    role && {
      userId: "u1",
      organisationId: "o1",
      name: "Ada Fennimore",
      email: "ada@presa.example",
      role,
      ownSitesOnly: false,
      sessionId: "w1",
    },
  );
};
const request = (method: string, init: RequestInit & { headers?: Record<string, string> } = {}): Request =>
  new Request("http://presa.test/api/thing", {
    method,
    ...init,
    headers: { host: "presa.test", ...init.headers },
    ...(init.body instanceof ReadableStream ? { duplex: "half" } : {}),
  } as RequestInit);
const siteParams = z.strictObject({ siteId: z.string().length(2) });
const params = { params: Promise.resolve({ siteId: "s1" }) };
type Answer = { status: number; body: Record<string, unknown> };
const answer = async (made: Promise<Response>): Promise<Answer> => {
  const response = await made;
  return { status: response.status, body: (await response.json()) as Record<string, unknown> };
};
const code = ({ status, body }: Answer): [number, unknown] => [status, (body["error"] as { code?: string })?.code];

beforeEach(() => as("manager"));
afterEach(() => vi.clearAllMocks());

describe("the one gate of every route", () => {
  it("lets nobody in who is not signed in, and a role only as far as it goes", async () => {
    const handle = vi.fn(async () => ({ done: true }));
    const route = guarded("technician", { params: siteParams }, handle);
    as(null);
    const shut = await answer(route(request("GET"), params));
    expect(code(shut)).toEqual([401, "notSignedIn"]);
    expect(shut.body).toMatchObject({ error: { ended: false } });
    // A phone whose session was ended is told so, and forgets what it holds.
    vi.mocked(sessionWasEnded).mockResolvedValueOnce(true);
    expect((await answer(route(request("GET"), params))).body).toMatchObject({ error: { ended: true } });
    as("viewer");
    const refused = await answer(route(request("GET"), params));
    expect(code(refused)).toEqual([403, "notAllowed"]);
    expect(JSON.stringify(refused.body)).toContain("Your role (viewer) may look but not do this. Ask a technician.");
    expect(handle).not.toHaveBeenCalled();
    for (const role of ["technician", "manager"] as const) {
      as(role);
      expect(await answer(route(request("GET"), params))).toEqual({ status: 200, body: { done: true } });
    }
    expect(handle).toHaveBeenLastCalledWith(
      expect.objectContaining({
        params: { siteId: "s1" },
        user: expect.objectContaining({ organisationId: "o1", role: "manager" }),
      }),
    );
  });
  it("takes no write from another site's page; reading is not asked where it came from", async () => {
    const route = guarded("viewer", {}, async () => null);
    const foreign = { headers: { origin: "http://elsewhere.test" } };
    for (const method of ["POST", "DELETE", "PUT"])
      expect(code(await answer(route(request(method, foreign), params)))).toEqual([403, "notAllowed"]);
    for (const origin of ["null", "not a url", "http://presa.test.elsewhere.test"])
      expect(code(await answer(route(request("POST", { headers: { origin } }), params)))).toEqual([403, "notAllowed"]);
    expect((await answer(route(request("GET", foreign), params))).status).toBe(200);
    expect((await answer(route(request("POST", { headers: { origin: "http://presa.test" } }), params))).status).toBe(
      200,
    );
    expect(code(await answer(open(async () => null)(request("POST", foreign))))).toEqual([403, "notAllowed"]);
  });
  it("hands on the address and the body in their shape; what has another is refused before anything is done", async () => {
    const handle = vi.fn(async () => null);
    const route = guarded("viewer", { params: siteParams, body: z.strictObject({ version: z.number() }) }, handle);
    const post = (body: string, siteId = "s1"): Promise<Answer> =>
      answer(route(request("POST", { body }), { params: Promise.resolve({ siteId }) }));
    expect((await post('{"version":4}')).status).toBe(200);
    expect(handle).toHaveBeenCalledWith(expect.objectContaining({ params: { siteId: "s1" }, body: { version: 4 } }));
    handle.mockClear();
    expect(code(await post('{"version":4}', "elsewhere"))).toEqual([404, "notFound"]);
    expect(code(await post('{"version":4,"more":1}'))).toEqual([400, "badRequest"]);
    expect(code(await post("version 4"))).toEqual([400, "badRequest"]);
    expect(handle).not.toHaveBeenCalled();
  });
  it("answers what was refused with its code, words and details, and says nothing of what broke inside", async () => {
    const route = (work: () => Promise<unknown>) => answer(guarded("viewer", {}, work)(request("GET"), params));
    const stale = await route(async () => {
      throw new AppError("staleVersion", "Somebody saved version 4.", { current: { version: 4 } });
    });
    expect(stale).toMatchObject({ status: 409, body: { error: { code: "staleVersion", current: { version: 4 } } } });
    const broken = await route(async () => {
      throw new Error("password of the database is hunter2");
    });
    expect(code(broken)).toEqual([500, "internal"]);
    expect(JSON.stringify(broken.body)).not.toContain("hunter2");
    const shape = await route(async () => z.object({ version: z.number() }).parse({ version: "four" }));
    expect(shape.status).toBe(400);
    expect(JSON.stringify(shape.body)).toContain("version");
  });
  it("hands a response through, and says ok where there is nothing to say", async () => {
    const file = guarded("viewer", {}, async () => new Response("a,b", { status: 206 }));
    expect((await file(request("GET"), params)).status).toBe(206);
    const nothing = guarded("viewer", {}, async () => undefined);
    expect(await answer(nothing(request("POST"), params))).toEqual({ status: 200, body: { ok: true } });
  });
});

describe("a body", () => {
  const large = 8 * 1024 * 1024 + 1;
  const read = async (work: Promise<unknown>): Promise<unknown> =>
    work.then(
      (value) => value,
      (error: AppError) => error.code,
    );
  it("is read whole, in whatever pieces it comes, letters cut in two among them", async () => {
    const bytes = new TextEncoder().encode('{"name":"Größe µ"}');
    const pieces = new ReadableStream({
      start(controller) {
        for (const byte of bytes) controller.enqueue(new Uint8Array([byte]));
        controller.close();
      },
    });
    expect(await bodyJson(request("POST", { body: pieces }))).toEqual({ name: "Größe µ" });
    expect(await bodyText(request("POST"))).toBe("");
  });
  it("that says it is too large is not read; one that lies is cut off while it comes", async () => {
    const said = request("POST", { body: "x", headers: { "content-length": String(large) } });
    expect(await read(bodyText(said))).toBe("tooLarge");
    let sent = 0;
    const endless = new ReadableStream({
      pull(controller) {
        sent += 1024 * 1024;
        controller.enqueue(new Uint8Array(1024 * 1024));
      },
    });
    expect(await read(bodyText(request("POST", { body: endless })))).toBe("tooLarge");
    expect(sent).toBeLessThan(2 * large);
  });
  it("that is no JSON is refused in words", async () => {
    expect(await read(bodyJson(request("POST", { body: "{name:" })))).toBe("badRequest");
  });
});
