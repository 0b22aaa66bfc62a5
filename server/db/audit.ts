import { z } from "zod";
import type { Audited, AuditFilter, AuditRow } from "../../contracts/organisation.ts";
import { db } from "./connection.ts";
import { asOperator } from "./reach.ts";

export type AuditEntry = {
  organisationId: string;
  userId: string | null;
  who: string;
  what: Audited;
  about?: string;
  address?: string | null;
};

/** Adds what happened to the organisation's audit, in the current transaction if there is one. */
export async function audit(entry: AuditEntry): Promise<void> {
  const { about = "", address = null, ...row } = entry;
  await asOperator(() => db()("audit").insert({ ...row, about: about.slice(0, 300), address }));
}

const row = z.object({
  id: z.number(),
  at: z.date().transform((at) => at.toISOString()),
  who: z.string(),
  what: z.string(),
  about: z.string(),
  address: z.string().nullable(),
});

/** Newest first; older than `before` where a page goes on. */
export async function auditOf(organisationId: string, filter: AuditFilter, limit: number): Promise<AuditRow[]> {
  const { what, who, before } = filter;
  const rows = db()("audit").where({ organisationId }).orderBy("id", "desc").limit(limit);
  if (what) rows.where({ what });
  if (who) rows.where({ who });
  if (before) rows.where("id", "<", before);
  return z.array(row).parse(await rows.select("id", "at", "who", "what", "about", "address")) as AuditRow[];
}
