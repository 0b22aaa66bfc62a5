import { describe, expect, it } from "vitest";
import { controllerFindings, controllerFindingWords, type KnownController } from "./controller-findings.ts";

const NOW = Date.parse("2026-07-14T12:00:00Z");
const right: KnownController = {
  speaks: "orders",
  state: "live",
  heardAt: "2026-07-14T11:59:58Z",
  differs: 0,
  byHand: 0,
  clockOffS: 0,
  send: null,
};
const words = (more: Partial<KnownController>): string[] =>
  controllerFindings({ ...right, ...more }, NOW).map(controllerFindingWords);

describe("what somebody has to look at, at a controller", () => {
  it("nothing where all is right, and nothing of one that nobody can ask", () => {
    expect(words({})).toEqual([]);
    expect(words({ clockOffS: 60, state: "silent" })).toEqual([]);
    expect(words({ speaks: "listenOnly", state: "silent", heardAt: null, clockOffS: 9000 })).toEqual([]);
  });
  it("a silence, what was set there, a clock, a send, and what differs, each in words", () => {
    expect(words({ state: "silent", heardAt: "2026-07-14T09:00:00Z" })).toEqual(["silent for 3 h"]);
    expect(words({ state: "waiting", heardAt: null })).toEqual(["never heard"]);
    expect(words({ differs: 3, byHand: 1, clockOffS: 2400 })).toEqual([
      "someone changed 1 setting at the controller",
      "clock 40 min ahead",
      "2 settings not as in Presa",
    ]);
    expect(words({ clockOffS: -600, send: { state: "failed", reason: "it is full" } })).toEqual([
      "clock 10 min behind",
      "refused what was sent: it is full",
    ]);
    const partly = { state: "partly", reason: null };
    expect(words({ send: partly, differs: 1 })).toEqual([
      "took what was sent only in part",
      "1 setting not as in Presa",
    ]);
    expect(words({ send: partly, differs: null })).toEqual(["took what was sent only in part"]);
    // Both ends hold the same again, or somebody noted what differs.
    expect(words({ send: partly })).toEqual([]);
  });
});
