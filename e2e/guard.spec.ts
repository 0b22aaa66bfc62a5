import { readFileSync } from "node:fs";
import { join } from "node:path";
import { type APIRequestContext, expect, test } from "@playwright/test";
import { DEMO_PASSWORD } from "../server/demo/people.ts";
import { OPEN, routes } from "../testing/routes.ts";
import { MANAGER, STRANGER, VIEWER } from "./people.ts";

const NO_ONE = "00000000-0000-4000-8000-000000000000";
const at = (path: string, siteId: string): string =>
  path
    .replace("[siteId]", siteId)
    .replace("[version]", "1")
    .replace("[kind]", "walk")
    .replace(/\[\w+\]/g, NO_ONE);
const send = (request: APIRequestContext, method: string, path: string, data?: string) =>
  request.fetch(path, {
    method,
    ...(method === "GET" ? {} : { data: data ?? "{}", headers: { "content-type": "application/json" } }),
  });

async function as(
  playwright: { request: { newContext: (o: object) => Promise<APIRequestContext> } },
  baseURL: string | undefined,
  email: string,
): Promise<APIRequestContext> {
  const context = await playwright.request.newContext({ baseURL: baseURL as string });
  expect((await context.post("/api/session", { data: { email, password: DEMO_PASSWORD } })).status()).toBe(200);
  return context;
}

test("every route passes the one gate: signed out, wrong role, another organisation", async ({
  request,
  playwright,
  baseURL,
}) => {
  expect(routes.length).toBeGreaterThanOrEqual(12);
  const manager = await as(playwright, baseURL, MANAGER);
  const page = await (await manager.get("/api/sites")).text();
  const siteId = /"id":"([0-9a-f-]{36})"/.exec(page)?.[1] as string;
  const viewer = await as(playwright, baseURL, VIEWER);
  const stranger = await as(playwright, baseURL, STRANGER);
  for (const r of routes) {
    const path = at(r.path, siteId);
    if (OPEN.has(r.path)) {
      expect(r.gate, path).toBe("open");
      continue;
    }
    expect(r.gate, path).toBe("guarded");
    expect((await send(request, r.method, path)).status(), `signed out ${r.method} ${path}`).toBe(401);
    if (r.least !== "viewer")
      expect((await send(viewer, r.method, path)).status(), `viewer ${r.method} ${path}`).toBe(403);
    // Library and profiles are organisation's own: a stranger gets his own, which hold nothing of ours.
    if (
      /^\/api\/(library|profiles|alarms|organisation|controllers|rounds|people|account|groups|deeds|views|search|webhooks|calendar|water)/.test(
        r.path,
      ) &&
      !r.path.includes("[")
    )
      continue;
    const strange = await send(stranger, r.method, path, bodies[`${r.method} ${r.path}`]);
    if (r.path !== "/api/sites") expect(strange.status(), `stranger ${r.method} ${path}`).toBe(404);
  }
  expect((await request.get("/", { maxRedirects: 0 })).status()).toBe(307);
  expect((await request.get(`/sites/${siteId}/night`, { maxRedirects: 0 })).status()).toBe(307);
  expect((await stranger.get(`/sites/${siteId}/night`)).status()).toBe(404);
});

test("whoever sees some sites only gets nothing of another by any route", async ({ playwright, baseURL }) => {
  const manager = await as(playwright, baseURL, MANAGER);
  const { sites } = (await (await manager.get("/api/sites")).json()) as { sites: { id: string }[] };
  const [own, other] = sites.map((s) => s.id);
  const email = `own-sites-${Date.now()}@presa.example`;
  const invited = await manager.post("/api/people", { data: { email, role: "technician" } });
  const { token } = (await invited.json()) as { token: string };
  const joined = { name: "Own Sites", password: DEMO_PASSWORD };
  expect((await manager.post(`/api/joining/${token}`, { data: joined })).ok()).toBe(true);
  const here = await as(playwright, baseURL, MANAGER);
  const { people } = (await (await here.get("/api/people")).json()) as { people: { id: string; email: string }[] };
  const id = people.find((p) => p.email === email)?.id as string;
  const given = await here.patch(`/api/people/${id}`, { data: { action: "sites", siteIds: [own] } });
  expect(given.status()).toBe(200);
  const limited = await as(playwright, baseURL, email);
  expect(((await (await limited.get("/api/sites")).json()) as { sites: unknown[] }).sites).toHaveLength(1);
  for (const r of routes.filter((x) => x.path.includes("[siteId]"))) {
    const path = at(r.path, other as string);
    const answer = await send(limited, r.method, path, bodies[`${r.method} ${r.path}`]);
    expect(answer.status(), `${r.method} ${path}`).toBe(r.least === "manager" ? 403 : 404);
  }
  expect((await limited.get(`/sites/${other}/night`)).status()).toBe(404);
  expect((await limited.get(`/sites/${own}/night`)).status()).toBe(200);
  expect((await here.delete(`/api/people/${id}`)).status()).toBe(200);
});

test("an organisation's library is its own", async ({ playwright, baseURL }) => {
  const manager = await as(playwright, baseURL, MANAGER);
  const stranger = await as(playwright, baseURL, STRANGER);
  const kept = await manager.post("/api/library", {
    data: { name: "Guarded meter", note: "", body: { kind: "meter", continuousMaxLpm: 77 } },
  });
  const item = ((await kept.json()) as { items: { id: string; name: string }[] }).items.find(
    (i) => i.name === "Guarded meter",
  );
  expect(await (await stranger.get("/api/library")).json()).toEqual({ items: [] });
  expect(await (await stranger.get("/api/library/csv")).text()).not.toContain("Guarded meter");
  expect((await stranger.delete(`/api/library/${item?.id}`)).status()).toBe(404);
  expect((await manager.delete(`/api/library/${item?.id}`)).status()).toBe(200);
});

const bodies: Record<string, string> = {
  "POST /api/sites/[siteId]/visits": JSON.stringify({
    id: NO_ONE,
    checklistId: "monthly",
    begunAt: "2026-07-14T10:00:00Z",
  }),
  "POST /api/sites/[siteId]/visits/[visitId]": JSON.stringify({ entries: [] }),
  "POST /api/sites/[siteId]/todos": JSON.stringify({ id: NO_ONE, words: "Lid of box 4" }),
  "PATCH /api/sites/[siteId]/todos/[todoId]": JSON.stringify({ version: 1, done: { words: "" } }),
  "POST /api/sites/[siteId]/entries": JSON.stringify({
    id: NO_ONE,
    by: NO_ONE,
    at: "2026-07-14T10:00:00Z",
    what: { kind: "walkBegin", walkId: NO_ONE, stationIds: ["a"] },
  }),
  "POST /api/sites/[siteId]/valve-checks": JSON.stringify({
    id: NO_ONE,
    controllerId: "a",
    at: "2026-07-14T10:00:00Z",
    how: "typed",
    unit: "ohm",
    readings: [{ stationId: "a", value: 38 }],
  }),
  "POST /api/sites/[siteId]/paper/[kind]": JSON.stringify({ id: NO_ONE, email: "nobody@presa.example" }),
  "POST /api/sites/[siteId]/due": JSON.stringify({ id: NO_ONE, duty: "winter", subjectId: null, on: "2026-07-14" }),
  "POST /api/sites/[siteId]/counters": JSON.stringify({ id: NO_ONE, sensorId: "fs", counter: 1, reason: "a month" }),
  "POST /api/sites/[siteId]/meter": JSON.stringify({
    id: NO_ONE,
    meterId: "m",
    at: "2026-07-14T10:00:00Z",
    m3: 1,
  }),
  "POST /api/deeds/[deedId]": JSON.stringify({ sites: [{ siteId: NO_ONE, version: 1 }] }),
  "POST /api/deeds/[deedId]/undo": JSON.stringify({ siteIds: [NO_ONE] }),
  "PATCH /api/groups/[groupId]": JSON.stringify({ name: "x" }),
  "PATCH /api/people/[personId]": JSON.stringify({ action: "signOut" }),
  "PATCH /api/sites/[siteId]/archive": JSON.stringify({ archived: true }),
  "DELETE /api/sites/[siteId]/archive": JSON.stringify({ name: "Lakeside Park" }),
  "PATCH /api/webhooks/[webhookId]": JSON.stringify({ action: "trial" }),
  "POST /api/sites/[siteId]/field": "{}",
  "POST /api/sites/[siteId]/revisions": JSON.stringify({
    baseVersion: 1,
    file: JSON.parse(readFileSync(join(import.meta.dirname, "../cases/plan-two-pocs/site.json"), "utf8")),
    note: "",
  }),
  "POST /api/sites/[siteId]/revisions/[version]": JSON.stringify({ baseVersion: 1 }),
  "POST /api/sites/[siteId]/learning": JSON.stringify({
    stationIds: null,
    faults: [],
    seed: 1,
    pace: 0,
    date: "2026-07-14",
  }),
  "POST /api/sites/[siteId]/learning/[runId]": JSON.stringify({ date: "2026-07-14", pace: 0 }),
  "POST /api/sites/[siteId]/learning/[runId]/meter": JSON.stringify({ beforeL: 1, afterL: 2, minutes: 10 }),
  "POST /api/sites/[siteId]/learning/[runId]/sets": JSON.stringify({ sets: [["a", "b"]] }),
  "POST /api/sites/[siteId]/mornings": JSON.stringify({ text: "time,flow L/min,station" }),
  "PATCH /api/sites/[siteId]/mornings": JSON.stringify({ findingId: "a", answer: "visit" }),
  "POST /api/sites/[siteId]/learning/proposals": JSON.stringify({
    action: "take",
    picks: [{ runId: NO_ONE, stationId: "a" }],
  }),
  "POST /api/sites/[siteId]/learning/outside": JSON.stringify({
    how: "stopwatch",
    stationId: "a",
    readings: [{ litres: 1, seconds: 1 }],
  }),
  "POST /api/sites/[siteId]/bench": JSON.stringify({ date: "2026-07-14", faults: [], seed: 1, exact: true }),
  "POST /api/sites/[siteId]/drills": JSON.stringify({
    version: 1,
    date: "2026-07-14",
    seed: 1,
    steps: [],
    named: { kind: "brokenLateral", subjectId: "a" },
  }),
  "POST /api/sites/[siteId]/controllers": JSON.stringify({ version: 1, controllerIds: ["a"] }),
  "PATCH /api/sites/[siteId]/controllers": JSON.stringify({
    answer: "leave",
    controllerId: "a",
    paths: ["a"],
    words: "none of theirs",
  }),
  "POST /api/sites/[siteId]/orders": JSON.stringify({ id: NO_ONE, what: { kind: "stop" } }),
  "POST /api/sites/[siteId]/learning/there": JSON.stringify({ id: NO_ONE, stationIds: ["a"] }),
  "POST /api/sites/[siteId]/field/play": JSON.stringify({ pace: 2 }),
  "POST /api/sites/[siteId]/alarms/[alarmId]": JSON.stringify({ action: "acknowledge" }),
};

test("bad requests are answered with 4xx and a code, never 500", async ({ playwright, baseURL }) => {
  const manager = await as(playwright, baseURL, MANAGER);
  const siteId = /"id":"([0-9a-f-]{36})"/.exec(await (await manager.get("/api/sites")).text())?.[1] as string;
  const junk = [
    "",
    "{",
    "null",
    "[]",
    "7",
    '{"a":1}',
    '{"baseVersion":"x"}',
    '{"baseVersion":1,"file":{},"note":""}',
    '{"date":"2026-99-99","faults":[{}],"seed":1,"exact":true}',
    '{"create":{"name":"","timeZone":"Nowhere","units":"us"}}',
    '{"create":{"name":"x","timeZone":"Nowhere","units":"us"}}',
  ];
  for (const r of routes.filter((x) => x.method !== "GET"))
    for (const id of [siteId, "not-a-uuid", NO_ONE])
      for (const data of r.method === "DELETE" ? ["{}"] : junk) {
        // These would end what this test does: its session, and its manager.
        if (r.method === "DELETE" && (r.path === "/api/session" || r.path === "/api/account")) continue;
        const answer = await send(manager, r.method, at(r.path, id), data);
        expect(answer.status(), `${r.method} ${at(r.path, id)} ${data}`).toBeLessThan(500);
        if (answer.status() >= 400) expect((await answer.json()).error.code).toBeTruthy();
      }
  const huge = await manager.post("/api/sites", {
    data: Buffer.alloc(20 * 1024 * 1024, 32),
    headers: { "content-type": "application/json" },
  });
  expect(huge.status()).toBe(413);
  const foreign = await manager.post("/api/sites", { data: "{}", headers: { origin: "http://elsewhere.example" } });
  expect(foreign.status()).toBe(403);
});

test("wrong tries wait longer and longer, do not tell who exists, and lock nobody out", async ({
  playwright,
  baseURL,
}) => {
  const context = await playwright.request.newContext({ baseURL: baseURL as string });
  const attempt = (email: string, password = "wrong") => context.post("/api/session", { data: { email, password } });
  const [known, unknown] = [await attempt(VIEWER), await attempt("nobody@presa.example")];
  expect([known.status(), unknown.status()]).toEqual([401, 401]);
  expect(await known.json()).toEqual(await unknown.json());
  for (const email of [` ${VIEWER}`, VIEWER.toUpperCase(), VIEWER]) await attempt(email);
  const began = Date.now();
  expect((await attempt(VIEWER, DEMO_PASSWORD)).status()).toBe(200);
  expect(Date.now() - began).toBeGreaterThanOrEqual(240);
  const large = await context.post("/api/session", { data: { email: "a@b.example", password: "x".repeat(5000) } });
  expect(large.status()).toBe(413);
});

test("after signing out a kept cookie is worth nothing", async ({ playwright, baseURL }) => {
  const person = await as(playwright, baseURL, VIEWER);
  expect((await person.get("/api/sites")).status()).toBe(200);
  const kept = await person.storageState();
  expect((await person.delete("/api/session")).status()).toBe(200);
  const again = await playwright.request.newContext({ baseURL: baseURL as string, storageState: kept });
  expect((await again.get("/api/sites")).status()).toBe(401);
});
