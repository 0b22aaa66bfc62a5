import { describe, expect, it } from "vitest";
import { Fair } from "./fair.ts";

/** Who runs, in the order in which they got their places. */
function desk(rules: { places: number; most: number; waiting: number }) {
  const fair = new Fair({ ...rules, what: "computations" });
  const served: string[] = [];
  const leaves: (() => void)[] = [];
  const enter = (who: string, signal?: AbortSignal): Promise<void> =>
    fair.enter(who, signal).then((leave) => {
      served.push(who);
      leaves.push(leave);
    });
  const settle = (): Promise<void> => new Promise((r) => setImmediate(r));
  const leave = async (n: number): Promise<void> => {
    leaves[n]?.();
    await settle();
  };
  return { served, enter, leave, settle };
}

describe("places shared fairly", () => {
  it("one organisation never has them all, and others come between its many", async () => {
    const d = desk({ places: 3, most: 2, waiting: 50 });
    for (let i = 0; i < 6; i++) void d.enter("many");
    await d.settle();
    expect(d.served).toEqual(["many", "many"]);
    void d.enter("one");
    await d.settle();
    expect(d.served).toEqual(["many", "many", "one"]);
    void d.enter("other");
    await d.leave(0);
    // Whoever runs fewest comes next.
    expect(d.served.at(-1)).toBe("other");
    await d.leave(2);
    expect(d.served.at(-1)).toBe("many");
  });
  it("goes round among equals", async () => {
    const d = desk({ places: 1, most: 1, waiting: 50 });
    void d.enter("a");
    await d.settle();
    for (const who of ["a", "a", "b", "b", "c"]) void d.enter(who);
    for (let n = 0; n < 6; n++) await d.leave(n);
    expect(d.served).toEqual(["a", "b", "c", "a", "b", "a"]);
  });
  it("refuses in words who lets too many wait, and no one else", async () => {
    const d = desk({ places: 1, most: 1, waiting: 2 });
    void d.enter("a");
    await d.settle();
    void d.enter("a");
    void d.enter("a");
    await expect(d.enter("a")).rejects.toMatchObject({ code: "busy", status: 503 });
    void d.enter("b");
    await d.leave(0);
    expect(d.served).toHaveLength(2);
  });
  it("forgets who gives up while waiting, and gives a place back once only", async () => {
    const d = desk({ places: 1, most: 1, waiting: 5 });
    void d.enter("a");
    await d.settle();
    const gone = new AbortController();
    const waiting = d.enter("b", gone.signal);
    gone.abort(new Error("went away"));
    await expect(waiting).rejects.toThrow("went away");
    await expect(d.enter("b", gone.signal)).rejects.toThrow("went away");
    void d.enter("c");
    await d.leave(0);
    await d.leave(0);
    expect(d.served).toEqual(["a", "c"]);
  });
});
