import { createServer, type IncomingMessage } from "node:http";
import type { AddressInfo } from "node:net";
import { text } from "node:stream/consumers";
import { afterAll, afterEach, beforeAll, describe, expect, it } from "vitest";
import type { SiteFile } from "../../core/site-file/schema.ts";
import { refusal, twoPeople } from "../../testing/server-people.ts";
import { smallSite } from "../../testing/small-site.ts";
import type { InSession } from "../auth/session.ts";
import { insertAlarms } from "../db/alarms.ts";
import { closeDatabase, db } from "../db/connection.ts";
import { actOnAlarm } from "../services/alarms.ts";
import { importSite } from "../services/sites.ts";
import { actOnWebhook, addWebhook, removeWebhook, toldView } from "../services/telling.ts";
import { makeCalls } from "./calls.ts";
import { callOutside, isInside, signature } from "./outside.ts";

const heard: { body: string; signature: string }[] = [];
let answers = 200;
const system = createServer((request: IncomingMessage, response) => {
  void text(request).then((body) => {
    heard.push({ body, signature: String(request.headers["x-presa-signature"]) });
    response.writeHead(answers).end();
  });
});
let url: string;
let maren: InSession;
let stranger: InSession;
let siteId: string;
const named = (s: SiteFile): void => {
  s.site.name = "Dell Pond";
};
beforeAll(async () => {
  [maren, stranger] = await twoPeople();
  siteId = (await importSite(maren, JSON.stringify(smallSite(named)))).id;
  await new Promise<void>((yes) => system.listen(0, "127.0.0.1", yes));
  url = `http://127.0.0.1:${(system.address() as AddressInfo).port}/hook`;
});
afterEach(() => {
  delete process.env["PRESA_WEBHOOKS_INSIDE"];
  answers = 200;
  heard.length = 0;
});
afterAll(async () => {
  await new Promise((yes) => system.close(yes));
  await closeDatabase();
});
const raise = (): Promise<void> =>
  insertAlarms([
    {
      organisationId: maren.organisationId,
      siteId,
      benchRunId: null,
      at: new Date().toISOString(),
      kind: "stationHigh",
      subjectId: "s1",
      measuredLpm: 140,
      expectedLpm: 100,
      message: "Station 1 reads too much.",
      locked: [],
    },
  ]);

describe("addresses inside", () => {
  it("are this machine, its network, and what stands for them in IPv6", () => {
    for (const a of [
      "127.0.0.1",
      "10.1.2.3",
      "192.168.1.1",
      "172.20.0.1",
      "169.254.169.254",
      "0.0.0.0",
      "::1",
      "fe80::1",
      "fd00::1",
      "::ffff:10.0.0.1",
      "::ffff:7f00:1",
    ])
      expect(isInside(a), a).toBe(true);
    for (const a of ["8.8.8.8", "172.32.0.1", "2001:db8::1"]) expect(isInside(a), a).toBe(false);
  });
  it("are refused, written out or behind a name", async () => {
    for (const inside of ["http://127.0.0.1:1/", "http://[::1]:1/", "http://localhost:1/", "http://0x7f.1:1/"])
      await expect(callOutside(inside, "{}", {}), inside).rejects.toThrow("no webhook may go");
    expect((await refusal(addWebhook(maren, "http://192.168.0.9/hook"))).code).toBe("badRequest");
    expect((await refusal(addWebhook(maren, "http://localhost/hook"))).code).toBe("badRequest");
  });
});

describe("another system", () => {
  it("is told of an alarm raised, acknowledged and cleared, signed with its secret", async () => {
    process.env["PRESA_WEBHOOKS_INSIDE"] = "1";
    const { secret, webhooks } = await addWebhook(maren, url);
    expect(webhooks[0]).toMatchObject({ url, enabled: true, madeBy: "maren", calls: [] });
    await raise();
    const [alarm] = await db()("alarm").where({ siteId });
    await actOnAlarm(maren, siteId, alarm.id, { action: "acknowledge" });
    await actOnAlarm(maren, siteId, alarm.id, { action: "clear", cause: "nozzle gone" });
    expect(await makeCalls(new Date())).toBe(3);
    const events = heard.map((h) => JSON.parse(h.body));
    expect(events.map((e) => e.event).sort()).toEqual(["alarm.acknowledged", "alarm.cleared", "alarm.raised"]);
    const cleared = events.find((e) => e.event === "alarm.cleared");
    expect(cleared).toMatchObject({
      site: { id: siteId, name: "Dell Pond" },
      alarm: { id: alarm.id, kind: "stationHigh", measuredLpm: 140, state: "cleared", cause: "nozzle gone" },
    });
    for (const { body, signature: given } of heard) {
      const seconds = Number(/^t=(\d+)/.exec(given)?.[1]);
      expect(given).toBe(signature(secret as string, seconds, body));
    }
    expect(await makeCalls(new Date())).toBe(0);
    expect(await toldView(maren)).not.toHaveProperty("secret");
  });
  it("that does not take a call is called again with growing waits, given up, and called again when asked", async () => {
    process.env["PRESA_WEBHOOKS_INSIDE"] = "1";
    const [hook] = (await toldView(maren)).webhooks;
    const id = hook?.id as string;
    answers = 500;
    await actOnWebhook(maren, id, "trial");
    for (let tried = 1; tried <= 6; tried++) {
      await makeCalls(new Date());
      const [call] = (await toldView(maren)).webhooks[0]?.calls ?? [];
      expect(call).toMatchObject({
        event: "trial",
        tries: tried,
        state: tried < 6 ? "waiting" : "failed",
        status: 500,
      });
      await db()("webhook_call").where({ state: "waiting" }).update({ nextAt: new Date() });
    }
    answers = 204;
    await actOnWebhook(maren, id, "again");
    expect(await makeCalls(new Date())).toBe(1);
    expect((await toldView(maren)).webhooks[0]?.calls[0]).toMatchObject({ state: "done", status: 204, problem: null });
  });
  it("that takes no calls keeps no other waiting, however many wait for it", async () => {
    process.env["PRESA_WEBHOOKS_INSIDE"] = "1";
    let asked = 0;
    const dead = createServer((request) => {
      asked++;
      request.socket.destroy();
    });
    await new Promise<void>((yes) => dead.listen(0, "127.0.0.1", yes));
    const theirs = `http://127.0.0.1:${(dead.address() as AddressInfo).port}/`;
    const { webhooks } = await addWebhook(stranger, theirs);
    const deaf = webhooks[0]?.id as string;
    for (let i = 0; i < 30; i++) await actOnWebhook(stranger, deaf, "trial");
    const own = (await toldView(maren)).webhooks[0]?.id as string;
    for (let i = 0; i < 3; i++) await actOnWebhook(maren, own, "trial");
    expect(await makeCalls(new Date())).toBe(3);
    expect(heard).toHaveLength(3);
    expect(asked).toBe(1);
    await removeWebhook(stranger, deaf);
    await new Promise((yes) => dead.close(yes));
  });
  it("that is off is not called; another organisation neither sees nor turns it; taken out it is gone with its calls", async () => {
    process.env["PRESA_WEBHOOKS_INSIDE"] = "1";
    const id = (await toldView(maren)).webhooks[0]?.id as string;
    await actOnWebhook(maren, id, "off");
    await raise();
    expect(await makeCalls(new Date())).toBe(0);
    expect((await toldView(stranger)).webhooks).toEqual([]);
    expect((await refusal(actOnWebhook(stranger, id, "trial"))).code).toBe("notFound");
    expect((await refusal(removeWebhook(stranger, id))).code).toBe("notFound");
    expect((await removeWebhook(maren, id)).webhooks).toEqual([]);
    expect(await db()("webhook_call").where({ webhookId: id })).toEqual([]);
  });
});
