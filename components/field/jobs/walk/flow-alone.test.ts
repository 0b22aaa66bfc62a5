import { describe, expect, it } from "vitest";
import { waterworks } from "@/core/network/waterworks";
import type { Station } from "@/core/site-file/schema";
import { smallSite } from "@/testing/small-site";
import { flowOfAlone } from "./flow-alone";

const site = smallSite((s) => {
  s.stations[0] = { ...(s.stations[0] as Station), holdOffS: 45 };
});
const w = waterworks(site);
const station = site.stations[0] as Station;
const live = (open: string[], flow: Record<string, number | null>, seconds = 60) => ({
  open,
  flow,
  since: 1000 * seconds,
});

describe("what a station reads alone", () => {
  it("is what its sensors sum, settled once its hold-off is over", () => {
    expect(flowOfAlone(w, station, live(["s1"], { fs: 98 }))).toEqual({ lpm: 98, settled: true });
    expect(flowOfAlone(w, station, live(["s1"], { fs: 140 }, 30))).toEqual({ lpm: 140, settled: false });
  });
  it("is not known while another is open, while none is, or where a sensor reads nothing", () => {
    expect(flowOfAlone(w, station, live(["s1", "s2"], { fs: 98 }))).toBeNull();
    expect(flowOfAlone(w, station, live(["s2"], { fs: 98 }))).toBeNull();
    expect(flowOfAlone(w, station, live([], { fs: 0 }))).toBeNull();
    expect(flowOfAlone(w, station, live(["s1"], { fs: null }))).toBeNull();
    expect(flowOfAlone(w, station, live(["s1"], {}))).toBeNull();
    expect(flowOfAlone(w, { ...station, id: "gone" }, live(["gone"], { fs: 98 }))).toBeNull();
  });
});
