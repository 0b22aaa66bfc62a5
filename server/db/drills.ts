import { drill, type Drill, drillPerson, type DrillPerson } from "../../contracts/drills.ts";
import { z } from "zod";
import { db } from "./connection.ts";

export type NewDrillResult = {
  organisationId: string;
  siteId: string;
  version: number;
  userId: string;
  date: string;
  seed: number;
  steps: unknown;
  hidden: unknown;
  named: unknown;
  right: boolean;
  seconds: number;
  lostL: number;
  usedL: number;
};

/** Keeps a result; false when this person answered this drill already. */
export async function insertDrillResult(r: NewDrillResult): Promise<boolean> {
  const row = {
    organisationId: r.organisationId,
    siteId: r.siteId,
    version: r.version,
    userId: r.userId,
    date: r.date,
    seed: r.seed,
    steps: JSON.stringify(r.steps),
    hidden: JSON.stringify(r.hidden),
    named: JSON.stringify(r.named),
    namedRight: r.right,
    seconds: Math.round(r.seconds),
    lostL: r.lostL,
    usedL: r.usedL,
  };
  const kept: unknown[] = await db()("drill_result")
    .insert(row)
    .onConflict(["site_id", "user_id", "version", "date", "seed"])
    .ignore()
    .returning("id");
  return kept.length > 0;
}

export async function drillsOfSite(organisationId: string, siteId: string, limit = 50): Promise<Drill[]> {
  const rows: unknown[] = await db()("drill_result as d")
    .join("app_user as u", "u.id", "d.user_id")
    .where({ "d.organisation_id": organisationId, "d.site_id": siteId })
    .orderBy("d.done_at", "desc")
    .limit(limit)
    .select(
      "d.id",
      "d.done_at",
      "u.name as user_name",
      "d.hidden",
      "d.named",
      "d.named_right",
      db().raw("jsonb_array_length(d.steps) as checks"),
      "d.seconds",
      "d.lost_l",
    );
  return z.array(drill).parse(rows);
}

/** Each person's drills over all sites: how many, how many right, and on average checks, minutes and litres. */
export async function drillPeople(organisationId: string): Promise<DrillPerson[]> {
  const rows: unknown[] = await db()("drill_result as d")
    .join("app_user as u", "u.id", "d.user_id")
    .where({ "d.organisation_id": organisationId })
    .groupBy("u.id", "u.name")
    .orderBy("u.name")
    .select(
      "u.name as user_name",
      db().raw("count(*)::int as drills"),
      db().raw('count(*) filter (where d.named_right)::int as "right"'),
      db().raw("avg(jsonb_array_length(d.steps))::float8 as checks"),
      db().raw("avg(d.seconds / 60.0)::float8 as minutes"),
      db().raw("avg(d.lost_l)::float8 as lost_l"),
    );
  return z.array(drillPerson).parse(rows);
}
