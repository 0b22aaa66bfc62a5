import { z } from "zod";
import { bodyJson, open } from "@/server/auth/guard";
import { signIn, signOut } from "@/server/auth/session";

const request = z.strictObject({ email: z.string().min(3).max(200), password: z.string().min(1).max(200) });

export const POST = open(async (req) => {
  const { email, password } = request.parse(await bodyJson(req));
  const user = await signIn(email, password, req.headers.get("x-forwarded-for") ?? "local");
  return { name: user.name, role: user.role };
});

export const DELETE = open(async () => {
  await signOut();
  return { ok: true };
});
