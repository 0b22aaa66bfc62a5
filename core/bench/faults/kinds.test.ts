import { describe, expect, it } from "vitest";
import { smallSite } from "../../../testing/small-site.ts";
import { simulate } from "../simulate.ts";
import { FAULT_KINDS, faultSpec, needsOther } from "./kinds.ts";
import { faultSubjects, type FaultRequest } from "./resolve.ts";

const DATE = "2026-07-14";
/** A site that has one of everything a fault can be dropped on. */
const site = smallSite((s) => {
  s.pocs[0]?.devices.push(
    { id: "valve", kind: "masterValve", normally: "closed" },
    {
      id: "booster",
      kind: "pump",
      curve: [
        { flowLpm: 0, headM: 60 },
        { flowLpm: 900, headM: 30 },
      ],
    },
  );
});

describe("every kind of fault", () => {
  it.each(FAULT_KINDS)("%s: is called something, belongs somewhere, and does something to a night", (kind) => {
    const spec = faultSpec(kind);
    expect(spec.words).not.toBe("");
    expect(Object.keys(spec.effect).length).toBeGreaterThan(0);
    const subject = faultSubjects(site, kind)[0];
    expect(subject, `nothing on the site for ${kind}`).toBeDefined();
    const other = site.stations.find((s) => s.id !== subject?.id)?.id;
    const fault: FaultRequest = {
      kind,
      subjectId: subject?.id ?? "",
      at: "+120",
      ...(needsOther(kind) ? { otherId: other } : {}),
    };
    const options = { date: DATE, seed: 3, exact: false };
    const [calm, night] = [simulate(site, options), simulate(site, { ...options, faults: [fault] })];
    if (!calm.ok || !night.ok) throw new Error("refused");
    expect(JSON.stringify(night.result)).not.toBe(JSON.stringify(calm.result));
  });

  it.each(FAULT_KINDS.filter((k) => faultSpec(k).size !== null))(
    "%s: its usual size is within what it may be",
    (kind) => {
      const size = faultSpec(kind).size;
      const usual = size?.usual(site, faultSubjects(site, kind)[0]?.id ?? "") ?? -1;
      expect(usual).toBeGreaterThan(0);
      expect(usual).toBeLessThanOrEqual(size?.max ?? 0);
    },
  );

  it("is swept and drilled only where it may be dropped", () => {
    for (const kind of FAULT_KINDS) {
      const { subjects, swept, drilled } = faultSpec(kind);
      for (const at of [swept, drilled]) if (at !== null) expect(subjects).toContain(at);
    }
  });
});
