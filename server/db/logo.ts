import { z } from "zod";
import { db } from "./connection.ts";

export type LogoType = "image/png" | "image/jpeg";
const facts = z.object({
  version: z.string(),
  setBy: z.string(),
  setAt: z.date().transform((d) => d.toISOString()),
});

export async function logoFacts(organisationId: string): Promise<z.infer<typeof facts> | null> {
  const row: unknown = await db()("logo").where({ organisationId }).first("version", "set_by", "set_at");
  return row ? facts.parse(row) : null;
}

export async function logoOf(
  organisationId: string,
): Promise<{ type: LogoType; content: Buffer; version: string } | null> {
  return (await db()("logo").where({ organisationId }).first("type", "content", "version")) ?? null;
}

export async function setLogo(row: {
  organisationId: string;
  type: LogoType;
  content: Buffer;
  version: string;
  setBy: string;
}): Promise<void> {
  await db()("logo")
    .insert({ ...row, setAt: new Date() })
    .onConflict("organisation_id")
    .merge();
}

export async function dropLogo(organisationId: string): Promise<boolean> {
  return (await db()("logo").where({ organisationId }).delete()) === 1;
}
