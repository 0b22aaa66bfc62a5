import { ASK_EACH_TIME, guarded } from "@/server/auth/guard";
import { logoPicture } from "@/server/services/logo";

export const GET = guarded("viewer", {}, async ({ user, request }) => {
  const { type, content, version } = await logoPicture(user);
  const headers = { etag: `"${version}"`, "cache-control": ASK_EACH_TIME };
  if (request.headers.get("if-none-match") === headers.etag) return new Response(null, { status: 304, headers });
  return new Response(new Uint8Array(content), { headers: { ...headers, "content-type": type } });
});
