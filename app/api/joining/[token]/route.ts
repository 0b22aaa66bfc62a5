import { joinRequest } from "@/contracts/people";
import { fromOf } from "@/server/auth/address";
import { bodyJson, open } from "@/server/auth/guard";
import { joinBy, joiningOf } from "@/server/services/people";

type At = { token: string };

/** What a link that works once leads to; whoever holds it may ask. */
export const GET = open<At>(async (_, { token }) => joiningOf(token, new Date()));

export const POST = open<At>(async (request, { token }) => {
  const asked = joinRequest.parse(await bodyJson(request, 4096));
  const user = await joinBy(token, asked, fromOf(request), new Date());
  return { name: user.name, role: user.role };
});
