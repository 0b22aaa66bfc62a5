import { randomUUID } from "node:crypto";
import { afterAll, beforeAll, describe, expect, it } from "vitest";
import type { Order } from "../../core/field/orders.ts";
import { INVENTED } from "../../core/profiles/profile.ts";
import type { Program } from "../../core/site-file/schema.ts";
import { startGateway } from "../../gateway/gateway.ts";
import { codeOf, simulatedPlaces, until } from "../../testing/simulated-places.ts";
import { smallSite } from "../../testing/small-site.ts";
import type { SignedIn } from "../auth/session.ts";
import { alarmsOfSite } from "../db/alarms.ts";
import { db } from "../db/connection.ts";
import { type HoldsRow, holdsOf, keepCompared } from "../db/controllers.ts";
import { gatewayOf } from "../db/field.ts";
import { actOnAlarm } from "../services/alarms.ts";
import { allControllers } from "../services/all-controllers.ts";
import { answerDifferences, controllersStatus, sendSettings } from "../services/controllers.ts";
import { learnable, learnMany } from "../services/learn-many.ts";
import { latestLearning } from "../services/learning.ts";
import { learnThere, placeOrder, readBack } from "../services/orders.ts";
import { readBackNightly } from "../services/read-back.ts";
import { importSite, loadSite, restoreRevision } from "../services/sites.ts";
import { keepValveCheck, valveChecks } from "../services/valve-checks.ts";

let there: Awaited<ReturnType<typeof simulatedPlaces>>;
let maren: SignedIn;
let stranger: SignedIn;
beforeAll(async () => {
  there = await simulatedPlaces();
  ({ maren, stranger } = there);
});
afterAll(() => there.end());

describe("settings, sent and read back", () => {
  it("are taken whole, in the controller's own steps, refused where it cannot; what it holds is then what Presa shows", async () => {
    const p = await there.place();
    expect((await there.controller(p)).read?.differences).toEqual([]);
    const now = await there.saved(p, (s) => {
      (s.programs[0]?.runs[0] as { minutes: number }).minutes = 12.4;
      (s.programs[0] as Program).days = { type: "interval", everyDays: 3, anchor: "2026-07-01" };
    });
    const before = await there.controller(p);
    expect(before.read?.differences.map((d) => [d.what, d.presa, d.controller, d.moved])).toEqual([
      ["program P: days", "every 3 days from 2026-07-01", "tue", "unknown"],
      ["program P: 1 S1", "12.4 min", "10 min", "unknown"],
    ]);
    // The controller is a plainer one than Presa knows.
    const plain = INVENTED[0] as (typeof INVENTED)[number];
    p.gateway.site.setByHand("ctl", (h) => ({ ...h, profile: { ...plain, interval: false } }));
    await until(async () => (await there.controller(p)).read?.byHandAt);
    expect(await codeOf(sendSettings(maren, p.site.id, { version: now.version - 1, controllerIds: ["ctl"] }))).toBe(
      "conflict",
    );
    await sendSettings(maren, p.site.id, { version: now.version, controllerIds: ["ctl"] });
    const sent = await until(async () => {
      const { send } = await there.controller(p);
      return send?.answeredAt ? send : undefined;
    });
    expect(sent?.state).toBe("partly");
    expect(sent?.items.map((i) => [i.what, i.outcome, i.value])).toEqual(
      expect.arrayContaining([
        ["program P: 1 S1", "changed", "12 min"],
        ["program P: days", "refused", expect.any(String)],
      ]),
    );
    const after = await until(async () => {
      const c = await there.controller(p);
      return c.read?.number === 1 ? c : undefined;
    });
    expect(after?.read?.byHandAt).toBeNull();
    expect(p.gateway.site.held.held[0]?.settings.programs[0]?.runs[0]?.minutes).toBe(12);
  });

  it("a comparison begun before the controller said something new is not kept", async () => {
    const p = await there.place();
    const before = (await until(async () => (await holdsOf(p.site.id))[0])) as HoldsRow;
    p.gateway.site.setByHand("ctl", (h) => ({ ...h, settings: { ...h.settings, programs: [] } }));
    const differences = await until(async () => {
      const found = (await there.controller(p)).read?.differences ?? [];
      return found.length > 0 ? found : undefined;
    });
    const now = (await holdsOf(p.site.id))[0] as HoldsRow;
    expect(now.news).toBeGreaterThan(before.news);
    await keepCompared(p.site.id, before, { differences: [], version: p.site.version });
    expect((await holdsOf(p.site.id))[0]?.differences).toHaveLength(differences?.length ?? 0);
    await keepCompared(p.site.id, now, { differences: [], version: p.site.version });
    expect((await holdsOf(p.site.id))[0]?.differences).toEqual([]);
  });

  it("a change made at the controller is found by the nightly read-back, and taken over or left, noted", async () => {
    const p = await there.place();
    p.gateway.site.setByHand("ctl", (h) => ({
      ...h,
      settings: {
        ...h.settings,
        policy: { ...h.settings.policy, highPercent: 45 },
        programs: h.settings.programs.map((q) => ({ ...q, starts: ["04:30"] })),
      },
    }));
    await db()("controller_holds").where({ siteId: p.site.id }).update({ differences: "[]" });
    expect(await readBackNightly(new Date("2030-07-01T10:00:00Z"))).toBeGreaterThan(0);
    const read = await until(async () => {
      const { differences } = (await there.controller(p)).read ?? { differences: [] };
      return differences.length === 2 ? differences : undefined;
    });
    expect(read?.map((d) => [d.path, d.controller])).toEqual(
      expect.arrayContaining([
        ["policy.highPercent", "45 %"],
        ["programs[p].starts", "04:30"],
      ]),
    );
    const line = (await allControllers(maren)).lines.find((l) => l.siteId === p.site.id);
    expect(line).toMatchObject({ differs: 2, speaks: "orders", state: "live" });
    expect((await allControllers(stranger)).lines.some((l) => l.siteId === p.site.id)).toBe(false);

    const { version } = await loadSite(maren, p.site.id);
    await answerDifferences(maren, p.site.id, {
      answer: "take",
      version,
      controllerId: "ctl",
      paths: ["programs[p].starts"],
    });
    const taken = await loadSite(maren, p.site.id);
    expect(taken.file.programs[0]?.starts).toEqual(["04:30"]);
    await answerDifferences(maren, p.site.id, {
      answer: "leave",
      controllerId: "ctl",
      paths: ["policy.highPercent"],
      words: "the client wants it so",
    });
    const left = (await there.controller(p)).read?.differences;
    expect(left?.map((d) => [d.path, d.noted?.words])).toEqual([["policy.highPercent", "the client wants it so"]]);
    expect((await allControllers(maren)).lines.find((l) => l.siteId === p.site.id)).toMatchObject({ differs: 0 });
    expect(await codeOf(controllersStatus(stranger, p.site.id))).toBe("notFound");
  });

  it("wait while a gateway is silent, and what is sent after them overtakes them", async () => {
    const p = await there.place();
    p.gateway.site.setSilent(true);
    await until(async () => (await gatewayOf(p.site.id))?.state === "silent");
    const first = await there.saved(p, (s) => Object.assign(s.programs[0] as object, { starts: ["01:00"] }));
    await sendSettings(maren, p.site.id, { version: first.version, controllerIds: ["ctl"] });
    const second = await there.saved(p, (s) => Object.assign(s.programs[0] as object, { starts: ["02:00"] }));
    await sendSettings(maren, p.site.id, { version: second.version, controllerIds: ["ctl"] });
    expect((await controllersStatus(maren, p.site.id)).sends.map((s) => s.state)).toEqual(["waiting", "overtaken"]);
    expect(
      await codeOf(
        placeOrder(maren, p.site.id, {
          id: randomUUID(),
          what: { kind: "run", runs: [{ stationId: "s1", minutes: 1 }] },
        }),
      ),
    ).toBe("conflict");
    p.gateway.site.setSilent(false);
    await until(async () => (await controllersStatus(maren, p.site.id)).sends[0]?.state === "taken");
    expect(p.gateway.site.held.held[0]).toMatchObject({ number: 2 });
    expect(p.gateway.site.held.held[0]?.settings.programs[0]?.starts).toEqual(["02:00"]);
  });
});

describe("orders", () => {
  it("run, skip and stop are done once each under their id, with who asked; what cannot run is refused in words", async () => {
    const p = await there.place();
    const id = randomUUID();
    const what: Order = {
      kind: "run",
      runs: [
        { stationId: "s1", minutes: 5 },
        { stationId: "s2", minutes: 5 },
      ],
    };
    expect(await there.order(p, what, id)).toMatchObject({ state: "done", askedByName: maren.name });
    await placeOrder(maren, p.site.id, { id, what });
    await until(async () => (await there.events(p, "open")).length === 1);
    expect((await there.order(p, { kind: "skip" })).state).toBe("done");
    await until(async () => (await there.events(p, "open")).length === 2);
    expect((await there.order(p, { kind: "stop" })).state).toBe("done");
    await until(async () => (await there.events(p, "close")).length === 2);
    expect(await there.events(p, "open")).toEqual(["open s1", "open s2"]);
    const [ordered] = await db()("site_event")
      .where({ siteId: p.site.id, type: "ordered" })
      .orderBy("at")
      .select("reason");
    expect(ordered.reason).toContain(maren.name);
    expect(await there.order(p, { kind: "skip" })).toMatchObject({ state: "refused", reason: "nothing runs" });
    await expect(there.order(p, { kind: "run", runs: [{ stationId: "nobody", minutes: 5 }] })).rejects.toThrow(
      /no station/,
    );
  });

  it("open nothing at a controller that holds other settings than Presa knows of, until it is read back", async () => {
    const p = await there.place();
    p.gateway.site.setByHand("ctl", (h) => ({
      ...h,
      settings: { ...h.settings, policy: { ...h.settings.policy, lowPercent: 12 } },
    }));
    await until(async () => (await there.controller(p)).read?.differences.length);
    await db()("controller_holds").where({ siteId: p.site.id }).update({ checksum: "00000000" });
    const run: Order = { kind: "run", runs: [{ stationId: "s1", minutes: 1 }] };
    expect(await there.order(p, run)).toMatchObject({
      state: "refused",
      reason: expect.stringContaining("read back first"),
    });
    await readBack(maren, p.site.id);
    await until(
      async () =>
        (await db()("controller_holds").where({ siteId: p.site.id }).first("checksum")).checksum !== "00000000",
    );
    expect((await there.order(p, run)).state).toBe("done");
  });

  it("off holds at both ends with its date, resume takes it back; a valve check brings milliamps", async () => {
    const p = await there.place();
    expect((await there.order(p, { kind: "off", until: "2030-05-01" })).state).toBe("done");
    await until(async () => (await loadSite(maren, p.site.id)).file.site.holdUntil === "2030-05-01");
    await until(async () => (await there.controller(p)).read?.differences.length === 0);
    const heads = await db()("revision")
      .where({ siteId: p.site.id })
      .orderBy("version", "desc")
      .first("by_site", "note");
    expect(heads).toMatchObject({ bySite: true, note: expect.stringContaining("Off until 2030-05-01") });
    expect((await there.order(p, { kind: "resume" })).state).toBe("done");
    await until(async () => (await loadSite(maren, p.site.id)).file.site.holdUntil === undefined);
    const check = await there.order(p, { kind: "check", controllerId: "ctl" });
    expect(Object.keys(check.milliamps ?? {})).toEqual(["s1", "s2", "s3"]);
    const made = { id: randomUUID(), controllerId: "ctl", unit: "ohm" as const, how: "typed" as const };
    const of = { ...made, at: new Date().toISOString(), readings: [{ stationId: "s2", value: 38 }] };
    await keepValveCheck(maren, p.site.id, of, new Date());
    expect((await keepValveCheck(maren, p.site.id, of, new Date())).map((c) => [c.how, c.unit, c.by])).toEqual([
      ["typed", "ohm", "maren"],
      ["gateway", "mA", "maren"],
    ]);
    const again = { ...of, id: randomUUID() };
    const ahead = new Date(Date.now() - 3_600_000);
    expect(await codeOf(keepValveCheck(maren, p.site.id, { ...again, controllerId: "other" }, new Date()))).toBe(
      "badRequest",
    );
    expect(await codeOf(keepValveCheck(maren, p.site.id, again, ahead))).toBe("badRequest");
    expect(await codeOf(valveChecks(stranger, p.site.id))).toBe("notFound");
  });

  it("a lockout and its end are the same at both ends, whoever ends it; a revision put back changes none", async () => {
    const p = await there.place();
    await db()("alarm").where({ siteId: p.site.id }).delete();
    expect((await there.order(p, { kind: "lock", ids: ["s1"] })).state).toBe("done");
    await until(async () => (await loadSite(maren, p.site.id)).file.stations[0]?.lockedOut === true);
    const locked = await loadSite(maren, p.site.id);
    await restoreRevision(maren, p.site.id, 1, locked.version);
    expect((await loadSite(maren, p.site.id)).file.stations[0]?.lockedOut).toBe(true);
    p.gateway.site.clearByHand("s1");
    await until(async () => (await loadSite(maren, p.site.id)).file.stations[0]?.lockedOut === undefined);

    await there.order(p, { kind: "lock", ids: ["s2"] });
    await until(async () => (await loadSite(maren, p.site.id)).file.stations[1]?.lockedOut === true);
    await db()("alarm").insert({
      organisationId: maren.organisationId,
      siteId: p.site.id,
      at: new Date(),
      kind: "stationHigh",
      subjectId: "s2",
      measuredLpm: 200,
      expectedLpm: 100,
      message: "S2 is high",
      locked: ["s2"],
    });
    const [alarm] = await alarmsOfSite(maren.organisationId, p.site.id, 5);
    await actOnAlarm(maren, p.site.id, alarm?.id as string, { action: "clear", cause: "a broken riser" });
    expect((await loadSite(maren, p.site.id)).file.stations[1]?.lockedOut).toBeUndefined();
    await until(async () => p.gateway.site.held.lockouts.length === 0);
  });
});

describe("learning at the controllers", () => {
  it("becomes results by the steady test though the gateway is restarted in the middle, and nobody is connected", async () => {
    const p = await there.place(undefined, 60);
    const id = randomUUID();
    const { runId, refused } = await learnThere(maren, p.site.id, { id, stationIds: ["s1", "s2", "s3"] });
    expect(refused).toEqual([]);
    expect((await learnThere(maren, p.site.id, { id, stationIds: ["s1", "s2", "s3"] })).runId).toBe(runId);
    await until(async () => (await latestLearning(maren, p.site.id)).results.length > 0, 60);
    await p.gateway.stop();
    const again = await startGateway({ site: p.site.file, key: p.key, folder: p.folder, pace: 60 });
    there.atEnd(() => again.stop());
    const view = await until(async () => {
      const now = await latestLearning(maren, p.site.id);
      return now.run?.state === "done" ? now : undefined;
    }, 90);
    expect(view?.run).toMatchObject({ how: "controller", id: runId });
    expect(view?.run?.litres).toBeGreaterThan(100);
    expect(view?.run?.baseline).toHaveLength(1);
    const results = view?.results ?? [];
    expect(results.map((r) => [r.elementId, r.verdict, r.traced, r.how]).sort()).toEqual([
      ["s1", "accepted", true, "controller"],
      ["s2", "accepted", true, "controller"],
      ["s3", "accepted", true, "controller"],
    ]);
    for (const r of results) expect(r.meanLpm / (r.elementId === "s3" ? 50 : 100)).toBeCloseTo(1, 1);
  }, 180_000);

  it("is asked for on many sites at once: what is stale at each, at its own hour; what cannot be asked is told", async () => {
    const p = await there.place();
    const without = await importSite(
      maren,
      JSON.stringify(smallSite((s) => Object.assign(s.site, { id: "without", name: "Without" }))),
    );
    const places = [p.site.id, without.id].map((siteId) => ({ siteId, controllerIds: ["ctl"] }));
    const found = await learnable(maren, places);
    expect(found[0]).toEqual({ siteId: p.site.id, stale: 3, all: 3, refused: 0, why: null });
    expect(found[1]?.why).toMatch(/No gateway of this site/);
    expect((await learnable(stranger, places)).every((f) => f.why !== null && f.all === 0)).toBe(true);
    const sites = places.map((place) => ({ ...place, id: randomUUID() }));
    const asked = await learnMany(maren, { which: "stale", hours: { from: "22:00", to: "05:00" }, sites });
    expect(asked).toEqual({ asked: 1, not: [expect.stringMatching(/^Without: No gateway/)] });
    const { run } = await latestLearning(maren, p.site.id);
    expect(run).toMatchObject({ how: "controller", state: "queued" });
    const order = (await controllersStatus(maren, p.site.id)).orders.find((o) => o.id === sites[0]?.id);
    expect(order?.what).toMatchObject({ kind: "learn", stationIds: expect.arrayContaining(["s1", "s2", "s3"]) });
    const from = order?.what.kind === "learn" ? order.what.from : undefined;
    expect(Date.parse(from ?? "")).toBeGreaterThan(Date.now());
  });
});
