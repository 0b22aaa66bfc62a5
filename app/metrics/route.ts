import { isOperators } from "@/server/auth/address";
import { metricsText } from "@/server/metrics";

/** For Prometheus, on this machine or with the operator's token; nobody else is told that it is here. */
export async function GET(request: Request): Promise<Response> {
  if (!isOperators(request)) return new Response("Not found\n", { status: 404 });
  const { type, text } = await metricsText();
  return new Response(text, { headers: { "content-type": type, "cache-control": "no-store" } });
}
export const dynamic = "force-dynamic";
