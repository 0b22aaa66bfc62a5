import { describe, expect, it } from "vitest";
import { smallSite } from "../../testing/small-site.ts";
import type { Program, SiteFile } from "../site-file/schema.ts";
import { applyChanges, settingChanges } from "./settings-changes.ts";

const two = (): SiteFile =>
  smallSite((s) => {
    s.programs.push({ ...(s.programs[0] as Program), id: "q", name: "Q", runs: [{ stationId: "s3", minutes: 4 }] });
    (s.programs[0] as Program).runs.pop();
  });

describe("settings to change", () => {
  const before = two();
  const after = structuredClone(before);
  const [p, q] = after.programs as [Program, Program];
  p.runs.reverse();
  p.priority = 3;
  q.maxStationsAtOnce = 2;
  q.starts = ["21:00"];
  it("are listed one by one, and any of them can be taken alone", () => {
    expect(settingChanges(before, after)).toEqual([
      { id: "p order", kind: "order", programId: "p", moved: 2 },
      { id: "p priority", kind: "priority", programId: "p", from: 1, to: 3 },
      { id: "q atOnce", kind: "atOnce", programId: "q", from: 3, to: 2 },
      { id: "q starts", kind: "starts", programId: "q", from: ["22:00"], to: ["21:00"] },
    ]);
    expect(applyChanges(before, after, new Set())).toEqual(before);
    expect(applyChanges(before, after, new Set(settingChanges(before, after).map((c) => c.id)))).toEqual(after);
    const some = applyChanges(before, after, new Set(["p order"]));
    expect([some.programs[0]?.runs, some.programs[0]?.priority, some.programs[1]]).toEqual([
      p.runs,
      undefined,
      before.programs[1],
    ]);
  });
  it("stations taken into other programs go together", () => {
    const moved = structuredClone(before);
    (moved.programs[1] as Program).runs.push((moved.programs[0] as Program).runs.shift() as Program["runs"][number]);
    expect(settingChanges(before, moved)).toEqual([
      { id: "moves", kind: "moves", stations: [{ stationId: "s1", fromProgramId: "p", toProgramId: "q" }] },
    ]);
    expect(applyChanges(before, moved, new Set(["moves"]))).toEqual(moved);
  });
});
