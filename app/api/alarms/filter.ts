import type { AlarmFilter } from "@/server/services/alarms";

/** Which page of them is asked for, from 1. */
export function pageOf(request: Request): number {
  const page = Number(new URL(request.url).searchParams.get("page"));
  return Number.isInteger(page) && page >= 1 && page <= 10_000 ? page : 1;
}

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
