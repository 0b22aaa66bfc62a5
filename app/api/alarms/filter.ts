import type { AlarmFilter } from "@/server/services/alarms";

/** The filter that a query string asks for. */
export function filterOf(request: Request): AlarmFilter {
  const q = new URL(request.url).searchParams;
  const state = q.get("state");
  return {
    state: state === "open" || state === "cleared" ? state : undefined,
    kind: q.get("kind") || undefined,
    siteId: q.get("site") || undefined,
    assignedTo: q.get("assigned") || undefined,
    find: q.get("find")?.slice(0, 200) || undefined,
  };
}
