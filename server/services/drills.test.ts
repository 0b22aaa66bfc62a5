import { afterAll, beforeAll, describe, expect, it } from "vitest";
import { beginDrill } from "../../core/drill/drill.ts";
import { refusal, twoPeople } from "../../testing/server-people.ts";
import { smallSite } from "../../testing/small-site.ts";
import type { SignedIn } from "../auth/session.ts";
import { closeDatabase } from "../db/connection.ts";
import type { DrillRequest } from "../../contracts/drills.ts";
import { drillBook, keepDrill } from "./drills.ts";
import { importSite } from "./sites.ts";

let maren: SignedIn;
let stranger: SignedIn;
beforeAll(async () => {
  [maren, stranger] = await twoPeople();
});
afterAll(() => closeDatabase());

describe("drills", () => {
  it("are judged by the server from their seed, and kept by person", async () => {
    const site = await importSite(
      maren,
      JSON.stringify(
        smallSite((s) => {
          s.site.id = "drilled";
        }),
      ),
    );
    const asked = (more: Partial<DrillRequest>): DrillRequest => ({
      version: 1,
      date: "2026-07-14",
      seed: 7,
      steps: [],
      named: { kind: "brokenLateral", subjectId: "s1" },
      ...more,
    });
    const hidden = beginDrill(site.file, "2026-07-14", 7)?.hidden as DrillRequest["named"];
    const steps: DrillRequest["steps"] = [
      { standing: { open: ["s1"], valves: ["mv"], pumps: [] }, check: { type: "read" } },
    ];
    expect(await keepDrill(maren, site.id, asked({ steps, named: hidden }))).toMatchObject({
      right: true,
      seconds: 80,
      hidden,
    });
    expect((await refusal(keepDrill(maren, site.id, asked({ steps, named: hidden })))).code).toBe("conflict");
    const next = beginDrill(site.file, "2026-07-14", 8)?.hidden as DrillRequest["named"];
    const wrong =
      next.kind === "sensorDead"
        ? ({ kind: "stuckOpen", subjectId: "s2" } as const)
        : ({ kind: "sensorDead", subjectId: "fs" } as const);
    expect(await keepDrill(maren, site.id, asked({ seed: 8, named: wrong }))).toMatchObject({ right: false });
    const book = await drillBook(maren, site.id);
    expect(book.drills.map((d) => [d.userName, d.namedRight, d.checks])).toEqual([
      ["maren", false, 0],
      ["maren", true, 1],
    ]);
    expect(book.people).toMatchObject([{ userName: "maren", drills: 2, right: 1, checks: 0.5 }]);
    expect((await refusal(keepDrill(stranger, site.id, asked({})))).code).toBe("notFound");
    expect((await refusal(keepDrill(maren, site.id, asked({ version: 9 })))).code).toBe("badRequest");
    expect((await refusal(keepDrill(maren, site.id, asked({ date: "2026-07-15" })))).code).toBe("badRequest");
    expect(
      (
        await refusal(
          keepDrill(
            maren,
            site.id,
            asked({ steps: [{ standing: { open: ["elsewhere"], valves: [], pumps: [] }, check: { type: "read" } }] }),
          ),
        )
      ).code,
    ).toBe("badRequest");
  });
});
