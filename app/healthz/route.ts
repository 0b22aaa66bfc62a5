/** The process answers. */
export const GET = (): Response => new Response("ok\n", { headers: { "cache-control": "no-store" } });
export const dynamic = "force-dynamic";
