import { afterEach, beforeEach, describe, expect, it, vi } from "vitest";
import type { SiteFile } from "@/core/site-file/schema";
import { smallSite } from "@/testing/small-site";
import type { NightAnswer } from "@/core/summary/night-answer";
import { DEBOUNCE_MS, NightDesk, PATIENCE_MS } from "./night-desk";

const DATE = "2026-07-14";
type Asked = { site: SiteFile; answer: (makespanS: number) => void; fail: (why: string) => void };

/** A desk whose nights are answered by hand. */
function desk() {
  const asked: Asked[] = [];
  let ended = 0;
  const made = new NightDesk(
    () => ({
      night: (site) =>
        new Promise<NightAnswer>((resolve, reject) => {
          asked.push({
            site,
            answer: (makespanS) => resolve({ plan: { makespanS } } as unknown as NightAnswer),
            fail: (why) => reject(new Error(why)),
          });
        }),
      end: () => ended++,
    }),
    () => Date.now(),
  );
  return { made, asked, ended: () => ended, figure: () => made.snapshot().answer?.plan.makespanS };
}

describe("the night of the draft", () => {
  beforeEach(() => {
    vi.useFakeTimers();
  });
  afterEach(() => {
    vi.useRealTimers();
  });

  it("is begun at once for an edit by itself; of a burst that follows only the last is worked out", async () => {
    const { made, asked, figure } = desk();
    const [first, last] = [smallSite(), smallSite()];
    made.ask(first, DATE);
    expect(asked.map((a) => a.site)).toEqual([first]);
    for (let i = 0; i < 5; i++) made.ask(i === 4 ? last : smallSite(), DATE);
    await vi.advanceTimersByTimeAsync(DEBOUNCE_MS);
    expect(asked).toHaveLength(1);
    asked[0]?.answer(50);
    await vi.advanceTimersByTimeAsync(0);
    expect(made.snapshot().status).toBe("working");
    expect(asked.map((a) => a.site)).toEqual([first, last]);
    asked[1]?.answer(60);
    await vi.advanceTimersByTimeAsync(0);
    expect(made.snapshot().status).toBe("done");
    expect(figure()).toBe(60);
  });

  it("takes over what another desk has worked out, whatever it was at itself", async () => {
    const { made, asked, figure } = desk();
    made.ask(smallSite(), DATE);
    await vi.advanceTimersByTimeAsync(DEBOUNCE_MS);
    const known = smallSite();
    const answer = { plan: { makespanS: 75 } } as unknown as NightAnswer;
    made.know({ status: "done", why: null, answer, of: { site: known, date: DATE } });
    asked[0]?.answer(60);
    await vi.advanceTimersByTimeAsync(0);
    expect(figure()).toBe(75);
    made.ask(known, DATE);
    await vi.advanceTimersByTimeAsync(DEBOUNCE_MS);
    expect(asked).toHaveLength(1);
    expect(made.snapshot().status).toBe("done");
  });

  it("shows the earlier figure as being worked out, never as the new one", async () => {
    const { made, asked, figure } = desk();
    made.ask(smallSite(), DATE);
    await vi.advanceTimersByTimeAsync(DEBOUNCE_MS);
    asked[0]?.answer(60);
    await vi.advanceTimersByTimeAsync(0);
    made.ask(smallSite(), DATE);
    expect(made.snapshot().status).toBe("working");
    expect(figure()).toBe(60);
  });

  it("a night that fails leaves no figure standing, and says why", async () => {
    const { made, asked } = desk();
    made.ask(smallSite(), DATE);
    await vi.advanceTimersByTimeAsync(DEBOUNCE_MS);
    asked[0]?.answer(60);
    await vi.advanceTimersByTimeAsync(0);
    made.ask(smallSite(), DATE);
    await vi.advanceTimersByTimeAsync(DEBOUNCE_MS);
    asked[1]?.fail("no feed");
    await vi.advanceTimersByTimeAsync(0);
    expect(made.snapshot()).toMatchObject({ status: "failed", why: "no feed", answer: null });
  });

  it("an edit during a night waits for it, and is worked out next", async () => {
    const { made, asked } = desk();
    made.ask(smallSite(), DATE);
    await vi.advanceTimersByTimeAsync(DEBOUNCE_MS);
    const newer = smallSite();
    made.ask(newer, DATE);
    await vi.advanceTimersByTimeAsync(DEBOUNCE_MS);
    expect(asked).toHaveLength(1);
    asked[0]?.answer(60);
    await vi.advanceTimersByTimeAsync(0);
    expect(made.snapshot().status).toBe("working");
    expect(asked[1]?.site).toBe(newer);
  });

  it("gives up a night that takes too long when a newer one is wanted", async () => {
    const { made, asked, ended } = desk();
    made.ask(smallSite(), DATE);
    await vi.advanceTimersByTimeAsync(DEBOUNCE_MS);
    made.ask(smallSite(), DATE);
    await vi.advanceTimersByTimeAsync(DEBOUNCE_MS + PATIENCE_MS);
    expect(ended()).toBe(1);
    expect(asked).toHaveLength(2);
    asked[0]?.answer(1);
    asked[1]?.answer(2);
    await vi.advanceTimersByTimeAsync(0);
    expect(made.snapshot().answer?.plan.makespanS).toBe(2);
  });
});
