import { act, renderHook } from "@testing-library/react";
import { afterEach, beforeEach, describe, expect, it, vi } from "vitest";
import { EventStream } from "@/testing/event-stream";
import { heard, type Live, useLearningStream } from "./use-learning-stream";

const STILL: Live = { stationId: null, withIds: [], points: [], waits: null };
beforeEach(() => {
  vi.useFakeTimers();
  EventStream.install();
});
afterEach(() => {
  vi.useRealTimers();
  vi.unstubAllGlobals();
});
const samples = (stationId: string, ...rows: [number, number, 0 | 1][]) =>
  ({ type: "samples", stationId, rows }) as const;

describe("what is being learned", () => {
  it("begins anew with each station, and goes on with the same", () => {
    const one = heard(heard(STILL, { type: "opens", stationId: "s1", at: 0 } as never), samples("s1", [1, 90, 1]));
    expect(heard(one, samples("s1", [2, 99, 0])).points).toEqual([
      { at: 1, lpm: 90, settling: true },
      { at: 2, lpm: 99, settling: false },
    ]);
    expect(heard(one, samples("s2", [9, 40, 1])).points).toEqual([{ at: 9, lpm: 40, settling: true }]);
  });
  it("waits until there is something to read again", () => {
    const waiting = heard(STILL, { type: "waits", at: 0, until: 60, why: "a program runs" } as never);
    expect(waiting.waits).toEqual({ until: 60, why: "a program runs" });
    expect(heard(waiting, samples("s1", [61, 90, 1])).waits).toBeNull();
  });
  it("keeps no more than the last readings of an hour", () => {
    const many = heard(
      STILL,
      samples("s1", ...Array.from({ length: 5000 }, (_, i) => [i, 1, 0] as [number, number, 0])),
    );
    expect(many.points).toHaveLength(3900);
    expect(many.points.at(-1)?.at).toBe(4999);
  });
});

describe("the stream of a run", () => {
  const watch = (runId: string | null) => {
    const onNews = vi.fn();
    const hook = renderHook(({ id }) => useLearningStream("/learning", id, onNews), { initialProps: { id: runId } });
    return { ...hook, onNews };
  };
  it("is opened while one goes, closed when it ends, and what was kept is read", () => {
    const { result, rerender, onNews } = watch(null);
    expect(EventStream.opened).toEqual([]);
    rerender({ id: "run" });
    const stream = EventStream.last;
    expect(stream.url).toBe("/learning/run");
    stream.say(samples("s1", [1, 90, 1]));
    expect(result.current.stationId).toBe("s1");
    expect(onNews).not.toHaveBeenCalled();
    stream.say({ type: "result" });
    expect(onNews).toHaveBeenCalledTimes(1);
    stream.say({ type: "ended", state: "done" });
    expect(onNews).toHaveBeenCalledTimes(2);
    expect(stream.closed).toBe(true);
    expect(result.current).toEqual(STILL);
  });
  it("that was lost is opened again after a while, and keeps what was read", () => {
    const { result, onNews } = watch("run");
    EventStream.last.say(samples("s1", [1, 90, 1]));
    EventStream.last.break();
    expect(onNews).toHaveBeenCalledTimes(1);
    expect(EventStream.opened).toHaveLength(1);
    act(() => void vi.advanceTimersByTime(2000));
    expect(EventStream.opened).toHaveLength(2);
    expect(result.current.points).toHaveLength(1);
  });
  it("is not opened again once the page is gone", () => {
    const { unmount } = watch("run");
    EventStream.last.break();
    unmount();
    vi.advanceTimersByTime(10_000);
    expect(EventStream.opened).toHaveLength(1);
  });
});
