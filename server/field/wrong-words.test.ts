import { randomUUID } from "node:crypto";
import { connectAsync } from "mqtt";
import { afterAll, beforeAll, describe, expect, it } from "vitest";
import { orderTopic } from "../../core/field/orders.ts";
import { codeOf, simulatedPlaces, until } from "../../testing/simulated-places.ts";
import { smallSite } from "../../testing/small-site.ts";
import type { SignedIn } from "../auth/session.ts";
import { gatewayOf } from "../db/field.ts";
import { controllersStatus, sendSettings } from "../services/controllers.ts";
import { setField } from "../services/field.ts";
import { placeOrder } from "../services/orders.ts";
import { importSite } from "../services/sites.ts";

let there: Awaited<ReturnType<typeof simulatedPlaces>>;
let maren: SignedIn;

beforeAll(async () => {
  there = await simulatedPlaces();
  ({ maren } = there);
});
afterAll(() => there.end());

describe("what is said in a wrong way", () => {
  it("to a gateway is refused in words and counted: malformed, too long, replayed, too late, from the future", async () => {
    const p = await there.place();
    const said: { topic: string; message: { id?: string; outcome?: string; reason?: string; number?: number } }[] = [];
    const client = await connectAsync(p.key.broker, { username: p.key.account, password: p.key.password });
    there.atEnd(() => client.endAsync(true));
    client.on("message", (topic, payload) => said.push({ topic, message: JSON.parse(payload.toString()) }));
    await client.subscribeAsync(orderTopic(p.key.account, "done"));
    const ask = (what: "do" | "settings", message: object | string): Promise<unknown> =>
      client.publishAsync(
        orderTopic(p.key.account, what),
        typeof message === "string" ? message : JSON.stringify(message),
        { qos: 1 },
      );
    const at = (ms: number): string => new Date(Date.now() + ms).toISOString();
    const right = { at: at(0), expires: at(60_000), by: "x", what: { kind: "stop" } };
    const ids = { late: randomUUID(), future: randomUUID(), twice: randomUUID(), odd: randomUUID() };
    await ask("do", "{nothing");
    await ask("do", { id: ids.odd, what: { kind: "explode" } });
    await ask("do", "x".repeat(700_000));
    await ask("settings", { number: 5, settings: {} });
    await ask("do", { ...right, id: ids.late, at: at(-90_000), expires: at(-30_000) });
    await ask("do", { ...right, id: ids.future, at: at(3_600_000), expires: at(7_200_000) });
    await ask("do", { ...right, id: ids.twice });
    await ask("do", { ...right, id: ids.twice });
    await until(async () => said.filter((s) => s.message.id === ids.twice).length === 2);
    const outcome = (id: string): string[] =>
      said.filter((s) => s.message.id === id).map((s) => `${s.message.outcome}`);
    expect(outcome(ids.odd)).toEqual(["refused"]);
    expect(outcome(ids.late)).toEqual(["expired"]);
    expect(outcome(ids.future)).toEqual(["refused"]);
    expect(outcome(ids.twice)).toEqual(["done", "done"]);
    const status = await until(async () => {
      const now = await controllersStatus(maren, p.site.id);
      return now.refused["replayed"] ? now : undefined;
    });
    expect(status?.refused).toEqual({ malformed: 3, oversized: 1, late: 1, future: 1, replayed: 1 });
  });

  it("by a gateway is set aside and counted, and what was right before it stands", async () => {
    const p = await there.place();
    const client = await connectAsync(p.key.broker, { username: p.key.account, password: p.key.password });
    there.atEnd(() => client.endAsync(true));
    const say = (what: "taken" | "holds" | "done", message: object | string): Promise<unknown> =>
      client.publishAsync(
        orderTopic(p.key.account, what),
        typeof message === "string" ? message : JSON.stringify(message),
        { qos: 1 },
      );
    const before = (await there.controller(p)).read;
    await say("taken", "{");
    await say("holds", {
      controllerId: "ctl",
      at: new Date().toISOString(),
      number: 0,
      checksum: "00000000",
      settings: { a: 1 },
    });
    await say("done", { id: "nobody", outcome: "done" });
    await say("done", { id: randomUUID(), at: new Date().toISOString(), outcome: "done" });
    await until(async () => (await controllersStatus(maren, p.site.id)).setAside.count === 3);
    // When it was read may be later: the controller itself may have said once more what it holds.
    const now = (await there.controller(p)).read;
    for (const of of ["number", "byHandAt", "lockouts", "differences"] as const)
      expect(now?.[of]).toEqual(before?.[of]);
  });

  it("a gateway of the first version is heard and given nothing", async () => {
    const site = await importSite(maren, JSON.stringify(smallSite((s) => Object.assign(s.site, { id: "old" }))));
    const key = await setField(maren, site.id);
    const client = await connectAsync(key.broker, { username: key.account, password: key.password });
    there.atEnd(() => client.endAsync(true));
    const state = { stream: "old", first: 1, last: 0, online: true };
    const beat = setInterval(
      () => void client.publish(`presa/1/${key.account}/state`, JSON.stringify(state), { qos: 1, retain: true }),
      500,
    );
    there.atEnd(async () => clearInterval(beat));
    await until(async () => (await gatewayOf(site.id))?.state === "live");
    expect((await controllersStatus(maren, site.id)).speaks).toBe("listenOnly");
    expect(await codeOf(sendSettings(maren, site.id, { version: 1, controllerIds: ["ctl"] }))).toBe("conflict");
    expect(await codeOf(placeOrder(maren, site.id, { id: randomUUID(), what: { kind: "stop" } }))).toBe("conflict");
  });
});
