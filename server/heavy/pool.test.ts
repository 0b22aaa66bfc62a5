import { afterAll, describe, expect, it } from "vitest";
import { smallSite } from "../../testing/small-site.ts";
import { endHeavy, heavy } from "./pool.ts";

afterAll(endHeavy);

/** How often the process was there for others while something was done. */
async function turns(work: () => Promise<unknown>): Promise<number> {
  let count = 0;
  const beat = setInterval(() => count++, 5);
  await work();
  clearInterval(beat);
  return count;
}

describe("a computation on a thread of its own", () => {
  it("answers with data, and what fails in it fails for its caller", async () => {
    expect(await heavy("o1", "readSite", [{ format: "other" }])).toMatchObject({ ok: false });
    const { summary, facts } = await heavy("o1", "roundsOf", [smallSite(), "2026-07-14"]);
    expect([summary.litres, facts.stations]).toEqual([expect.closeTo(2500, 6), 3]);
    await expect(heavy("o1", "roundsOf", [{} as never, "2026-07-14"])).rejects.toThrow();
    expect(await heavy("o1", "readSiteText", ["{"])).toMatchObject({ ok: false, problems: [{ code: "notJson" }] });
  });
  it("leaves this process free for others while it works", async () => {
    const site = smallSite((s) => {
      s.stations = Array.from({ length: 400 }, (_, i) => ({
        ...(s.stations[0] as (typeof s.stations)[number]),
        id: `s${i}`,
        number: i + 1,
      }));
      for (const p of s.programs) p.runs = s.stations.map((x) => ({ stationId: x.id, minutes: 3 }));
    });
    await heavy("o1", "roundsOf", [smallSite(), "2026-07-14"]);
    const counted = await turns(() =>
      heavy("o1", "bench", [site, { date: "2026-07-14", faults: [], seed: 1, exact: false }]),
    );
    // Done here it would be once, at its end.
    expect(counted).toBeGreaterThan(3);
  });
  it("that takes too long is given up in words, and its thread with it; the next is done", async () => {
    const endless = smallSite((s) => {
      for (const x of s.stations) Object.assign(x, { cycle: { longestMin: 0.5 }, soakMin: 0 });
      for (const p of s.programs) for (const r of p.runs) r.minutes = 600;
    });
    await expect(
      heavy("o1", "bench", [endless, { date: "2026-07-14", faults: [], seed: 1, exact: false }], { budgetS: 0.05 }),
    ).rejects.toMatchObject({ code: "tooLarge" });
    expect(await heavy("o1", "readSite", [smallSite()])).toMatchObject({ ok: true });
  });
  it("is given up when whoever asked has gone", async () => {
    const gone = new AbortController();
    const work = heavy("o1", "bench", [smallSite(), { date: "2026-07-14", faults: [], seed: 1, exact: false }], {
      signal: gone.signal,
    });
    gone.abort(new Error("went away"));
    await expect(work).rejects.toThrow();
  });
});
