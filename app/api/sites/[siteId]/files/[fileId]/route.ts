import { MOST_BYTES } from "@/contracts/kept-files";
import { ASK_EACH_TIME, bodyBytes, guarded } from "@/server/auth/guard";
import { ofFile } from "@/server/auth/params";
import { keepFile, keptFile, mustBeKept, TOO_LARGE } from "@/server/services/kept-files";

/** A picture is shown; anything else is handed out and never opened here. */
export const GET = guarded("viewer", { params: ofFile }, async ({ user, params, request }) => {
  const headers = { etag: `"${params.fileId}"`, "cache-control": ASK_EACH_TIME };
  if (request.headers.get("if-none-match") === headers.etag) {
    await mustBeKept(user, params);
    return new Response(null, { status: 304, headers });
  }
  const { type, content } = await keptFile(user, params);
  const shown = type.startsWith("image/");
  return new Response(new Uint8Array(content), {
    headers: { ...headers, "content-type": type, "content-disposition": shown ? "inline" : "attachment" },
  });
});

/** The content of a file, as it is. */
export const POST = guarded("technician", { params: ofFile }, ({ user, params, request }) =>
  keepFile(user, params, () => bodyBytes(request, MOST_BYTES, TOO_LARGE)),
);
