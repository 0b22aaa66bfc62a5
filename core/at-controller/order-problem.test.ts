import { describe, expect, it } from "vitest";
import { smallSite } from "../../testing/small-site.ts";
import type { Order } from "../field/orders.ts";
import type { SiteFile } from "../site-file/schema.ts";
import { orderProblem } from "./order-problem.ts";

const site = smallSite();
const run = (...ids: string[]): Order => ({ kind: "run", runs: ids.map((stationId) => ({ stationId, minutes: 5 })) });
const hand = (flowLpm: number, pocId = "poc"): Order => ({ kind: "hand", pocId, minutes: 10, flowLpm });
const locked = (change: (s: SiteFile) => void): SiteFile => smallSite(change);
const lockStation = (s: SiteFile): unknown => Object.assign(s.stations[0] as object, { lockedOut: true });
const lockMain = (s: SiteFile): unknown => Object.assign(s.mainlines[0] as object, { lockedOut: true });
const lockPoc = (s: SiteFile): unknown => Object.assign(s.pocs[0] as object, { lockedOut: true });

describe("an order that may be given", () => {
  it.each<[string, Order]>([
    ["stations that fit one by one", run("s1", "s2", "s3")],
    ["a program", { kind: "program", programId: "p" }],
    ["a program from one of its stations", { kind: "program", programId: "p", fromStationId: "s2" }],
    ["a walk", { kind: "walk", controllerId: "ctl", minutes: 2 }],
    ["a hose as large as its connection", hand(150)],
    ["learning of which a part can be done", { kind: "learn", stationIds: ["s1", "s2"] }],
    ["a stop, always", { kind: "stop" }],
    ["what opens nothing", { kind: "off", until: "indefinite" }],
  ])("%s", (_, order) => expect(orderProblem(site, order)).toBeNull());
});

describe("one that may not says why", () => {
  it("what is not there", () => {
    expect(orderProblem(site, run("s9"))).toMatch(/no station "s9"/);
    expect(orderProblem(site, { kind: "program", programId: "x" })).toMatch(/no such program/);
    expect(orderProblem(site, { kind: "program", programId: "p", fromStationId: "x" })).toMatch(/not in this program/);
    expect(orderProblem(site, { kind: "walk", controllerId: "x", minutes: 2 })).toMatch(/no such controller/);
    expect(orderProblem(site, { kind: "check", controllerId: "x" })).toMatch(/no such controller/);
    expect(orderProblem(site, hand(10, "x"))).toMatch(/no such point of connection/);
  });
  it("a station that is locked out, or hangs on what is", () => {
    for (const change of [lockStation, lockMain, lockPoc])
      expect(orderProblem(locked(change), run("s3", "s1"))).toMatch(/is locked out/);
    expect(orderProblem(locked(lockStation), run("s3"))).toBeNull();
    expect(orderProblem(locked(lockPoc), hand(10))).toMatch(/Poc is locked out/);
  });
  it("more than the ceiling carries, with both figures", () => {
    const thirsty = smallSite((s) => Object.assign(s.stations[0] as object, { designFlowLpm: 160 }));
    expect(orderProblem(thirsty, run("s1"))).toMatch(/1 S1 needs 160 L\/min; its supply carries 150 L\/min/);
    // The connection carries more than the one main that hangs on it here.
    const narrow = smallSite((s) => {
      s.pocs[0]?.devices.push({ id: "meter", kind: "meter", continuousMaxLpm: 90 });
    });
    expect(orderProblem(narrow, hand(89))).toBeNull();
    expect(orderProblem(narrow, hand(200))).toMatch(/200 L\/min is more than that/);
  });
  it("learning of which nothing can be done", () => {
    const order: Order = { kind: "learn", stationIds: ["s1"] };
    expect(orderProblem(locked(lockStation), order)).toMatch(/None of these stations can be learned: 1 S1/);
  });
});
