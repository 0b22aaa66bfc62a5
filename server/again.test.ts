import { afterEach, beforeEach, describe, expect, it, vi } from "vitest";
import { again } from "./again.ts";

beforeEach(() => {
  vi.useFakeTimers({ toFake: ["setInterval", "clearInterval", "performance"] });
});
afterEach(() => {
  vi.useRealTimers();
});
/** Lets promises that are settled be heard. */
const settle = (): Promise<void> => new Promise((r) => setImmediate(r));
const pass = async (ms: number): Promise<void> => {
  for (let t = 0; t < ms; t += 50) {
    vi.advanceTimersByTime(50);
    await settle();
  }
};

describe("work that is done over and over", () => {
  it("begins at once, goes on in its time, and is never done twice at once", async () => {
    let begun = 0;
    let finish = (): void => {};
    const work = again(100, "it", () => {
      begun++;
      return new Promise((yes) => {
        finish = yes;
      });
    });
    await pass(500);
    work.now();
    expect(begun).toBe(1);
    finish();
    await pass(100);
    expect(begun).toBe(2);
    finish();
    await work.end();
    await pass(500);
    expect(begun).toBe(2);
  });
  it("is tried ever more rarely while it fails, and as before once it does not", async () => {
    let tries = 0;
    let away = true;
    const work = again(100, "it", async () => {
      tries++;
      if (away) throw new Error("away");
    });
    await pass(3000);
    expect(tries).toBe(4);
    away = false;
    await pass(3200);
    const before = tries;
    await pass(1000);
    expect(tries - before).toBeGreaterThanOrEqual(9);
    await work.end();
  });
});
