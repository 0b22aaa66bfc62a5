import { z } from "zod";
import { guarded } from "@/server/auth/guard";
import { keepDevice, library } from "@/server/services/library";

const kept = z.strictObject({
  name: z.string().trim().min(1).max(200),
  note: z.string().max(1000),
  body: z.unknown(),
  seen: z.string().max(40).nullable().default(null),
});

export const GET = guarded("viewer", {}, async ({ user }) => ({ items: await library(user) }));

export const POST = guarded("technician", { body: kept }, async ({ user, body: { name, note, body, seen } }) => ({
  items: await keepDevice(user, { name, note, body }, seen),
}));
