import { type ChildProcess, spawn } from "node:child_process";
import { mkdtempSync, rmSync } from "node:fs";
import { tmpdir } from "node:os";
import { join } from "node:path";
import { connect } from "mqtt";
import { afterAll, beforeAll, describe, expect, it } from "vitest";
import type { ReadingMessage } from "../../core/field/messages.ts";
import { instantOf } from "../../core/dates/wall-time.ts";
import type { SiteFile } from "../../core/site-file/schema.ts";
import { type Gateway, startGateway } from "../../gateway/gateway.ts";
import { refusal, twoPeople } from "../../testing/server-people.ts";
import { smallSite } from "../../testing/small-site.ts";
import type { SignedIn } from "../auth/session.ts";
import { alarmsOfSite } from "../db/alarms.ts";
import { closeDatabase, db } from "../db/connection.ts";
import { closeListening } from "../db/listen.ts";
import { gatewayOf, streamOf } from "../db/field.ts";
import { actOnAlarm } from "../services/alarms.ts";
import { fieldStatus, playField, setField } from "../services/field.ts";
import { importSite, type LoadedSite, loadSite } from "../services/sites.ts";
import { recordGateways } from "./recorder.ts";

let maren: SignedIn;
let stranger: SignedIn;
const folders: string[] = [];
const stops: (() => Promise<void>)[] = [];
beforeAll(async () => {
  [maren, stranger] = await twoPeople();
});
afterAll(async () => {
  for (const stop of stops.reverse()) await stop().catch(() => {});
  for (const f of folders) rmSync(f, { recursive: true, force: true });
  await closeListening();
  await closeDatabase();
});

let count = 0;
const DATE = "2026-07-14";
const folder = (): string => {
  const f = mkdtempSync(join(tmpdir(), "presa-gateway-"));
  folders.push(f);
  return f;
};
const gatewayFor = async (
  site: SiteFile,
  options: { pace: number; faults?: unknown[]; folder?: string; port?: number; from?: number },
): Promise<Gateway> => {
  const begun = await startGateway({ site, folder: options.folder ?? folder(), ...options });
  stops.push(() => begun.stop());
  return begun;
};
const imported = (change: (s: SiteFile) => void = () => {}): Promise<LoadedSite> =>
  importSite(
    maren,
    JSON.stringify(
      smallSite((s) => {
        s.site.id = `field${++count}`;
        change(s);
      }),
    ),
  );
const start = (site: LoadedSite): number => instantOf(site.file.site.timeZone, DATE, "21:58");
const until = async (what: () => Promise<boolean>, seconds: number): Promise<void> => {
  const end = Date.now() + seconds * 1000;
  while (!(await what())) {
    if (Date.now() > end) throw new Error("waited in vain");
    await new Promise((r) => setTimeout(r, 100));
  }
};
/** Every number of the journal is in the database once, with the same figures. */
const compare = async (site: LoadedSite, gateway: Gateway): Promise<number> => {
  const journal = gateway.journal();
  const lines = journal.lines(journal.first, journal.lastSeq).map((l) => JSON.parse(l) as ReadingMessage);
  const { stream } = lines[0] as ReadingMessage;
  const last = lines.length + journal.first - 1;
  await until(async () => ((await streamOf(site.id, stream))?.appliedSeq ?? 0) >= last, 30);
  const kept: { seq: number; value: number }[] = await db()("reading")
    .where({ siteId: site.id, stream, quantity: "flow" })
    .where("seq", "<=", last)
    .orderBy("seq")
    .select("seq", "value");
  const events: { seq: number }[] = await db()("site_event")
    .where({ siteId: site.id, stream })
    .where("seq", "<=", last)
    .orderBy("seq")
    .select("seq");
  const said = lines.filter((l) => l.kind === "reading");
  expect(kept.map((k) => [k.seq, k.value])).toEqual(said.map((l) => [l.seq, l.flow["fs"]]));
  expect(events.map((e) => e.seq)).toEqual(lines.filter((l) => (l.kind as string) === "event").map((l) => l.seq));
  return kept.length;
};
/** A worker process as it is started in earnest. */
const worker = async (): Promise<ChildProcess> => {
  const child = spawn(process.execPath, ["--import", "tsx", "server/jobs/worker.ts"], {
    stdio: "ignore",
    env: process.env,
  });
  stops.push(async () => {
    child.kill("SIGKILL");
  });
  return child;
};

describe("a field gateway", () => {
  it("is set by a manager, on this machine only, and is the organisation's own", async () => {
    const site = await imported();
    await setField(maren, site.id, { url: "mqtt://127.0.0.1:18830", topic: site.file.site.id });
    expect((await fieldStatus(maren, site.id)).gateway).toMatchObject({ state: "waiting", says: null });
    expect((await refusal(fieldStatus(stranger, site.id))).code).toBe("notFound");
    expect((await refusal(setField(stranger, site.id, null))).code).toBe("notFound");
    expect((await refusal(playField(maren, site.id, { pace: 2 }))).code).toBe("conflict");
    await setField(maren, site.id, null);
    expect((await fieldStatus(maren, site.id)).gateway).toBeNull();
  });

  it("200 readings a second for a minute, with the recording process killed and started again: nothing lost, nothing twice", async () => {
    const site = await imported((s) => {
      (s.programs[0] as SiteFile["programs"][number]).runs = [1, 2, 3].map((n) => ({
        stationId: `s${n}`,
        minutes: 150,
      }));
    });
    const gateway = await gatewayFor(site.file, { pace: 200, from: start(site) + 60 });
    await setField(maren, site.id, { url: `mqtt://127.0.0.1:${gateway.port}`, topic: site.file.site.id });
    const begun = Date.now();
    const first = await worker();
    await until(async () => ((await fieldStatus(maren, site.id)).stream?.readings ?? 0) > 1000, 30);
    first.kill("SIGKILL");
    const dead = (await fieldStatus(maren, site.id)).stream?.readings as number;
    // Nobody listens while another thousand readings are said.
    const said = gateway.journal().lastSeq;
    await until(async () => gateway.journal().lastSeq > said + 1000, 30);
    const second = await worker();
    await until(async () => ((await fieldStatus(maren, site.id)).stream?.readings ?? 0) > dead + 2000, 40);
    await until(async () => Date.now() - begun > 60_000, 90);
    await gateway.stop();
    // What the broker no longer sends is asked for when it is there again.
    const after = await startGateway({ site: site.file, folder: folders.at(-1) as string, port: gateway.port });
    stops.push(() => after.stop());
    expect(await compare(site, after)).toBeGreaterThan(10_000);
    second.kill("SIGTERM");
    await setField(maren, site.id, null);
  }, 180_000);
});

describe("what a gateway says", () => {
  let stop: () => Promise<void>;
  beforeAll(async () => {
    stop = await recordGateways(200);
  });
  afterAll(() => stop());

  it("comes in once and in order though messages come late, twice and not at all, and the gateway is restarted", async () => {
    const site = await imported();
    const where = folder();
    const gateway = await gatewayFor(site.file, { pace: 120, from: start(site), folder: where });
    await setField(maren, site.id, { url: `mqtt://127.0.0.1:${gateway.port}`, topic: site.file.site.id });
    await until(async () => ((await fieldStatus(maren, site.id)).stream?.readings ?? 0) > 100, 20);
    // Someone sends old numbers again, out of order.
    const noise = connect(`mqtt://127.0.0.1:${gateway.port}`);
    await new Promise((r) => noise.once("connect", r));
    for (const line of gateway.journal().lines(5, 60).reverse())
      await noise.publishAsync(`presa/1/${site.file.site.id}/data`, line, { qos: 1 });
    await noise.publishAsync(`presa/1/${site.file.site.id}/data`, "{ not a message", { qos: 1 });
    await noise.endAsync();
    await gateway.stop();
    const again = await gatewayFor(site.file, { pace: 120, folder: where, port: gateway.port });
    await until(async () => ((await fieldStatus(maren, site.id)).stream?.readings ?? 0) > 600, 30);
    await again.stop();
    const last = await gatewayFor(site.file, { pace: 1, folder: where, port: gateway.port });
    expect(await compare(site, last)).toBeGreaterThan(600);
    const status = await fieldStatus(maren, site.id);
    expect(status.stream?.lost).toBe(0);
    expect(status.rows.length).toBeGreaterThan(5);
    expect(status.rows.some((r) => r.highLpm !== null && r.expectedLpm > 0)).toBe(true);
  }, 90_000);

  it("a fault dropped while it plays: alarm and lockout arrive, the configuration has the lockout, clearing frees it; played again from an hour it is another stream", async () => {
    const site = await imported();
    const gateway = await gatewayFor(site.file, { pace: 200, from: start(site) });
    await setField(maren, site.id, { url: `mqtt://127.0.0.1:${gateway.port}`, topic: site.file.site.id });
    await until(async () => (await gatewayOf(site.id))?.says?.simulated === true, 20);
    await playField(maren, site.id, {
      from: new Date(start(site) * 1000).toISOString(),
      pace: 200,
      faults: [{ at: "+120", kind: "brokenLateral", subjectId: "s1" }],
    });
    await until(
      async () => (await alarmsOfSite(maren.organisationId, site.id)).some((a) => a.locked.includes("s1")),
      30,
    );
    const [alarm] = await alarmsOfSite(maren.organisationId, site.id);
    expect(alarm).toMatchObject({ kind: "stationHigh", subjectId: "s1", nightLostL: null });
    const locked = await loadSite(maren, site.id);
    expect(locked.file.stations.find((s) => s.id === "s1")?.lockedOut).toBe(true);
    const cleared = await actOnAlarm(maren, site.id, alarm?.id as string, {
      action: "clear",
      cause: "a lateral, mended",
    });
    expect(cleared.site.file.stations.find((s) => s.id === "s1")?.lockedOut).toBeUndefined();
    const streams = await db()("field_stream").where({ siteId: site.id }).count({ n: "*" }).first();
    expect(Number(streams?.n)).toBe(2);
    expect(
      (await refusal(playField(maren, site.id, { faults: [{ at: "+0", kind: "brokenLateral", subjectId: "gone" }] })))
        .code,
    ).toBe("badRequest");
    // A fault said to begin before now begins now, and is told.
    await playField(maren, site.id, {
      from: new Date((start(site) + 240) * 1000).toISOString(),
      pace: 100,
      faults: [],
    });
    await until(async () => ((await fieldStatus(maren, site.id)).open ?? []).length > 0, 20);
    await playField(maren, site.id, {
      pace: 200,
      faults: [{ at: "+0", kind: "mainlineBreak", subjectId: "main", size: 300 }],
    });
    await until(
      async () =>
        (await alarmsOfSite(maren.organisationId, site.id)).some(
          (a) => a.kind === "mainline" && a.locked.includes("main"),
        ),
      30,
    );
  }, 90_000);

  it("numbers that a gateway no longer keeps are counted as lost, and the rest goes on", async () => {
    const site = await imported();
    const topic = `presa/1/${site.file.site.id}`;
    const { Aedes } = await import("aedes");
    const { createServer } = await import("node:net");
    const broker = await Aedes.createBroker();
    const server = createServer(broker.handle);
    await new Promise<void>((r) => {
      server.listen(0, "127.0.0.1", r);
    });
    const port = (server.address() as { port: number }).port;
    const send = (what: string, body: unknown, retain = false): void =>
      broker.publish(
        { cmd: "publish", topic: `${topic}/${what}`, payload: JSON.stringify(body), qos: 1, dup: false, retain },
        () => {},
      );
    const reading = (seq: number) => ({
      stream: "r1",
      seq,
      at: new Date((start(site) + seq) * 1000).toISOString(),
      kind: "reading",
      flow: { fs: 0 },
      open: [],
    });
    const state = { stream: "r1", first: 1, last: 30, online: true };
    let asked = false;
    broker.on("publish", (packet, client) => {
      if (!client || packet.topic !== `${topic}/ask`) return;
      asked = true;
      const { from, to } = JSON.parse(packet.payload.toString()) as { from: number; to: number };
      if (from <= 20) send("data", { stream: "r1", kind: "lost", from: 10, to: 20 });
      for (let n = Math.max(21, from); n <= Math.min(to, 30); n++) send("data", reading(n));
    });
    send("state", state, true);
    await setField(maren, site.id, { url: `mqtt://127.0.0.1:${port}`, topic: site.file.site.id });
    const timer = setInterval(() => send("state", state, true), 300);
    await until(async () => asked, 20);
    for (let n = 1; n <= 9; n++) send("data", reading(n));
    await until(async () => (await streamOf(site.id, "r1"))?.appliedSeq === 30, 20);
    expect(await streamOf(site.id, "r1")).toMatchObject({ readings: 19, lost: 11 });
    clearInterval(timer);
    await setField(maren, site.id, null);
    await new Promise<void>((r) => broker.close(() => r()));
    server.close();
  }, 60_000);
});
