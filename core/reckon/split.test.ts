import { describe, expect, it } from "vitest";
import { dates, nightLog, reckonedSite } from "../../testing/reckoned-nights.ts";
import { nth } from "../checked.ts";
import { waterworks } from "../network/waterworks.ts";
import type { SiteFile } from "../site-file/schema.ts";
import type { Finding } from "./findings.ts";
import { reckon } from "./reckon.ts";

/** Two connections into one main, so that both sensors read every set. */
function joined(site: SiteFile): SiteFile {
  const next = structuredClone(site);
  const [poc] = next.pocs;
  if (!poc) throw new Error("no connection");
  next.pocs = ["a", "b"].map((p) => ({
    ...structuredClone(poc),
    id: `poc-${p}`,
    name: p,
    devices: poc.devices.map((d) => ({ ...structuredClone(d), id: d.id.replace("-a", `-${p}`) })),
  }));
  nth(next.mainlines, 0).feedIds = ["poc-a", "poc-b"];
  return next;
}
const { ground, known } = reckonedSite(11, 16);
const [inGround, asKnown] = [joined(ground), joined(known)];
const nights = (before: number, after: number, faults: unknown[]): Finding[] =>
  reckon(
    waterworks(asKnown),
    dates("2026-07-01", before + after).map((date, n) => nightLog(inGround, date, n < before ? [] : faults, 70 + n)),
  )?.found ?? [];
const wrong = (subjectId: string) => [{ kind: "wrongK", subjectId, at: "00:00:00", size: 1.2 }];

describe("two sensors of one system", () => {
  it("are told apart by how they share what flows, once nights before it are known", () => {
    for (const id of ["f-a", "f-b"]) {
      const [one, ...none] = nights(3, 2, wrong(id));
      expect(none).toEqual([]);
      expect(one).toMatchObject({ kind: "sensor", subjectIds: [id], certain: true });
    }
  });
  it("are both named where nothing was read before", () => {
    const sensors = nights(0, 4, wrong("f-a")).filter((x) => x.kind === "sensor");
    expect(sensors.map((f) => f.subjectIds)).toEqual([["f-a", "f-b"]]);
  });
});
