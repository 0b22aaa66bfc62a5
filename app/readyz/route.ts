import { ready } from "@/server/services/health";

/** The process answers, and so does its database. */
export async function GET(): Promise<Response> {
  const yes = await ready();
  return new Response(yes ? "ready\n" : "the database does not answer\n", {
    status: yes ? 200 : 503,
    headers: { "cache-control": "no-store" },
  });
}
export const dynamic = "force-dynamic";
