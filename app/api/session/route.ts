import { z } from "zod";
import { fromOf } from "@/server/auth/address";
import { bodyJson, open } from "@/server/auth/guard";
import { signIn, signOut } from "@/server/auth/session";

const request = z.strictObject({
  email: z.string().min(3).max(200),
  password: z.string().min(1).max(200),
  code: z.string().max(40).optional(),
});

export const POST = open(async (req) => {
  const asked = request.parse(await bodyJson(req, 4096));
  const user = await signIn({ ...asked, from: fromOf(req), now: new Date() });
  return { name: user.name, role: user.role };
});

export const DELETE = open(async () => {
  await signOut();
  return { ok: true };
});
