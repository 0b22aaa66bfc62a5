"use client";
import { useEffect, useRef, useState, useSyncExternalStore } from "react";
import type { SiteNow } from "@/contracts/rounds";

/** What every live site reads, as it is told; a row asks for its own and is drawn again only when that changes. */
export class SitesNow {
  private readonly now = new Map<string, SiteNow>();
  private readonly heard = new Map<string, Set<() => void>>();

  of = (siteId: string): SiteNow | null => this.now.get(siteId) ?? null;

  watch(siteId: string, hear: () => void): () => void {
    const hears = this.heard.get(siteId) ?? new Set();
    this.heard.set(siteId, hears.add(hear));
    return () => hears.delete(hear);
  }

  take(sites: readonly SiteNow[]): void {
    for (const s of sites) {
      this.now.set(s.siteId, s);
      for (const hear of this.heard.get(s.siteId) ?? []) hear();
    }
  }
}

/**
 * One stream for all sites, however many are live.
 *
 * @param onRows what Rounds says of some site was made anew, or may have been before anybody listened
 */
export function useSitesNow(onRows: () => void): SitesNow {
  const [sites] = useState(() => new SitesNow());
  const call = useRef(onRows);
  call.current = onRows;
  useEffect(() => {
    const source = new EventSource("/api/rounds/live");
    // What was told before this listened was heard by nobody, and the page may be of before.
    let fresh = true;
    source.onopen = () => {
      fresh = true;
    };
    source.onmessage = ({ data }) => {
      if (fresh) call.current();
      fresh = false;
      const news = JSON.parse(data) as { type: "now"; sites: SiteNow[] } | { type: "rows" };
      if (news.type === "now") sites.take(news.sites);
      if (news.type === "rows") call.current();
    };
    return () => source.close();
  }, [sites]);
  return sites;
}

export function useSiteNow(sites: SitesNow, siteId: string): SiteNow | null {
  return useSyncExternalStore(
    (hear) => sites.watch(siteId, hear),
    () => sites.of(siteId),
    () => null,
  );
}
