import { z } from "zod";
import { expectedFlow } from "../../core/site-file/expected-flow.ts";
import type { SiteFile, Station } from "../../core/site-file/schema.ts";
import { db } from "./connection.ts";

type Figure = {
  figure: "learned" | "entered" | "design";
  how: string | null;
  lpm: number | null;
  sdLpm: number | null;
  inUse: boolean;
  at?: string;
};

/** Adds what changed among the flow figures of stations between two revisions to their history; a learned one counts from when it was learned. */
export async function keepFlowFigures(
  at: { organisationId: string; siteId: string; version: number; userId: string },
  before: SiteFile | null,
  after: SiteFile,
): Promise<void> {
  const known = new Map(before?.stations.map((s) => [s.id, figuresOf(s)]));
  const rows = after.stations.flatMap((s) => {
    const was = known.get(s.id);
    return figuresOf(s)
      .filter((f, i) => {
        const old = was?.[i];
        return old ? old.lpm !== f.lpm || old.sdLpm !== f.sdLpm || old.inUse !== f.inUse : f.lpm !== null;
      })
      .map((f) => ({
        organisationId: at.organisationId,
        siteId: at.siteId,
        elementId: s.id,
        version: at.version,
        madeBy: at.userId,
        at: new Date().toISOString(),
        ...f,
      }));
  });
  for (let i = 0; i < rows.length; i += 1000) await db()("flow_figure").insert(rows.slice(i, i + 1000));
}

function figuresOf(s: Station): Figure[] {
  const used = expectedFlow(s)?.from;
  return [
    {
      figure: "learned",
      how: s.learned?.how ?? null,
      lpm: s.learned?.meanLpm ?? null,
      sdLpm: s.learned?.sdLpm ?? null,
      inUse: used === "learned",
      ...(s.learned ? { at: s.learned.at } : {}),
    },
    { figure: "entered", how: null, lpm: s.enteredFlowLpm ?? null, sdLpm: null, inUse: used === "entered" },
    { figure: "design", how: null, lpm: s.designFlowLpm ?? null, sdLpm: null, inUse: used === "design" },
  ];
}

const figureRow = z.object({
  elementId: z.string(),
  version: z.number(),
  at: z.date(),
  madeByName: z.string(),
  figure: z.enum(["learned", "entered", "design"]),
  how: z.string().nullable(),
  lpm: z.number().nullable(),
  sdLpm: z.number().nullable(),
  inUse: z.boolean(),
});
export type FlowFigureRow = z.infer<typeof figureRow>;

/** The figures of one station, oldest first. */
export async function flowFiguresOf(siteId: string, elementId: string): Promise<FlowFigureRow[]> {
  const rows: unknown[] = await db()("flow_figure as f")
    .join("app_user as u", "u.id", "f.made_by")
    .where({ "f.site_id": siteId, "f.element_id": elementId })
    .orderBy([{ column: "f.version" }, { column: "f.figure" }])
    .select("f.*", "u.name as made_by_name");
  return z.array(figureRow).parse(rows);
}

/** What was learned of each station so far, oldest first: the figures taken, without those only put in or out of use. */
export async function learnedBefore(siteId: string): Promise<Map<string, { meanLpm: number; at: string }[]>> {
  const rows: { elementId: string; lpm: number; at: Date }[] = await db()("flow_figure")
    .where({ siteId: siteId, figure: "learned" })
    .whereNotNull("lpm")
    .orderBy("version")
    .select("element_id", "lpm", "at");
  const past = new Map<string, { meanLpm: number; at: string }[]>();
  for (const r of rows) {
    const list = past.get(r.elementId) ?? [];
    if (list.at(-1)?.meanLpm !== r.lpm) list.push({ meanLpm: r.lpm, at: r.at.toISOString() });
    past.set(r.elementId, list);
  }
  return past;
}
