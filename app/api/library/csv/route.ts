import { bodyText, guarded } from "@/server/auth/guard";
import { exportLibrary, importLibrary } from "@/server/services/library";

export const GET = guarded(
  "viewer",
  {},
  async ({ user }) =>
    new Response(await exportLibrary(user), {
      headers: {
        "content-type": "text/csv; charset=utf-8",
        "content-disposition": 'attachment; filename="device-library.csv"',
      },
    }),
);

export const POST = guarded("technician", {}, async ({ user, request }) =>
  importLibrary(user, await bodyText(request), new URL(request.url).searchParams.get("replace") === "1"),
);
