import { z } from "zod";
import { expectedFlow } from "../../core/site-file/expected-flow.ts";
import type { SiteFile, Station } from "../../core/site-file/schema.ts";
import { db } from "./connection.ts";

type Figure = {
  figure: "learned" | "entered" | "design";
  how: string | null;
  lpm: number | null;
  sd_lpm: number | null;
  in_use: boolean;
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
        return old ? old.lpm !== f.lpm || old.sd_lpm !== f.sd_lpm || old.in_use !== f.in_use : f.lpm !== null;
      })
      .map((f) => ({
        organisation_id: at.organisationId,
        site_id: at.siteId,
        element_id: s.id,
        version: at.version,
        made_by: at.userId,
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
      sd_lpm: s.learned?.sdLpm ?? null,
      in_use: used === "learned",
      ...(s.learned ? { at: s.learned.at } : {}),
    },
    { figure: "entered", how: null, lpm: s.enteredFlowLpm ?? null, sd_lpm: null, in_use: used === "entered" },
    { figure: "design", how: null, lpm: s.designFlowLpm ?? null, sd_lpm: null, in_use: used === "design" },
  ];
}

const figureRow = z.object({
  element_id: z.string(),
  version: z.number(),
  at: z.date(),
  made_by_name: z.string(),
  figure: z.enum(["learned", "entered", "design"]),
  how: z.string().nullable(),
  lpm: z.number().nullable(),
  sd_lpm: z.number().nullable(),
  in_use: z.boolean(),
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
  const rows: { element_id: string; lpm: number; at: Date }[] = await db()("flow_figure")
    .where({ site_id: siteId, figure: "learned" })
    .whereNotNull("lpm")
    .orderBy("version")
    .select("element_id", "lpm", "at");
  const past = new Map<string, { meanLpm: number; at: string }[]>();
  for (const r of rows) {
    const list = past.get(r.element_id) ?? [];
    if (list.at(-1)?.meanLpm !== r.lpm) list.push({ meanLpm: r.lpm, at: r.at.toISOString() });
    past.set(r.element_id, list);
  }
  return past;
}
