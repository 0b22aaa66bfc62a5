"use client";
import { useInfiniteQuery, useMutation, useQuery, useQueryClient } from "@tanstack/react-query";
import { request } from "@/components/data/request";
import type { LogoFacts } from "@/contracts/logo";
import type { Audited, AuditRow, Keeping, OrganisationSettings, OrganisationView } from "@/contracts/organisation";

const KEY = ["organisation"];

/** The organisation as its managers see it. */
export function useOrganisation() {
  const client = useQueryClient();
  const view = useQuery({ queryKey: KEY, queryFn: () => request<OrganisationView>("GET", "/api/organisation") });
  const keep = useMutation({
    mutationFn: (keeping: Keeping) => request("PATCH", "/api/organisation", keeping),
    onSuccess: () => client.invalidateQueries({ queryKey: KEY }),
  });
  const erase = useMutation({
    mutationFn: (asked: { name: string; password: string }) => request("DELETE", "/api/organisation", asked),
    onSuccess: () => window.location.assign("/sign-in"),
  });
  return { view: view.data ?? null, problem: view.error?.message ?? null, keep, erase };
}

const SETTINGS = [...KEY, "settings"];
/** The organisation's name, and what its new sites begin with. */
export function useSettings() {
  const client = useQueryClient();
  const view = useQuery({
    queryKey: SETTINGS,
    queryFn: () => request<OrganisationSettings>("GET", "/api/organisation/settings"),
  });
  const change = useMutation({
    mutationFn: (asked: OrganisationSettings) =>
      request<OrganisationSettings>("PATCH", "/api/organisation/settings", asked),
    onSuccess: (now) => {
      client.setQueryData(SETTINGS, now);
      return client.invalidateQueries({ queryKey: KEY, exact: true });
    },
  });
  return { settings: view.data ?? null, problem: view.error?.message ?? null, change };
}

const LOGO = [...KEY, "logo"];
/** The logo on the organisation's paper; null: none, or not known yet. */
export function useLogo() {
  const client = useQueryClient();
  const keep = { onSuccess: (now: { logo: LogoFacts }) => client.setQueryData(LOGO, now) };
  const path = "/api/organisation/logo";
  const view = useQuery({ queryKey: LOGO, queryFn: () => request<{ logo: LogoFacts }>("GET", path) });
  const change = useMutation({ mutationFn: (file: File) => request<{ logo: LogoFacts }>("POST", path, file), ...keep });
  const takeOut = useMutation({ mutationFn: () => request<{ logo: LogoFacts }>("DELETE", path), ...keep });
  return { logo: view.data?.logo ?? null, problem: view.error?.message ?? null, change, takeOut };
}

export type AuditChoice = { what: Audited | ""; who: string };
export const auditPath = (path: string, { what, who }: AuditChoice, before?: number): string => {
  const asked = new URLSearchParams();
  if (what) asked.set("what", what);
  if (who) asked.set("who", who);
  if (before !== undefined) asked.set("before", String(before));
  return `${path}${asked.size > 0 ? `?${asked}` : ""}`;
};

/** Who did what, newest first, page by page. */
export function useAudit(choice: AuditChoice) {
  const pages = useInfiniteQuery({
    queryKey: [...KEY, "audit", choice],
    queryFn: ({ pageParam }) =>
      request<{ rows: AuditRow[]; more: boolean }>("GET", auditPath("/api/organisation/audit", choice, pageParam)),
    initialPageParam: undefined as number | undefined,
    getNextPageParam: (last) => (last.more ? last.rows.at(-1)?.id : undefined),
  });
  return {
    rows: pages.data?.pages.flatMap((p) => p.rows) ?? null,
    problem: pages.error?.message ?? null,
    more: pages.hasNextPage ? () => void pages.fetchNextPage() : null,
  };
}
