import { z } from "zod";
import { addressOf } from "@/server/auth/address";
import { bodyJson, open } from "@/server/auth/guard";
import { signIn, signOut } from "@/server/auth/session";

const request = z.strictObject({ email: z.string().min(3).max(200), password: z.string().min(1).max(200) });

export const POST = open(async (req) => {
  const { email, password } = request.parse(await bodyJson(req, 4096));
  const user = await signIn(email, password, addressOf(req));
  return { name: user.name, role: user.role };
});

export const DELETE = open(async () => {
  await signOut();
  return { ok: true };
});
