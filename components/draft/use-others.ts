"use client";
import { useEffect } from "react";
import { request } from "@/components/data/request";
import type { SiteFile } from "@/core/site-file/schema";
import { useDraftOf } from "./site-draft";

/** Hears at once when someone else saves this site, and brings their revision together with what is here. */
export function useOthersSaves(): void {
  const draft = useDraftOf();
  useEffect(() => {
    const { siteId } = draft.store.getState();
    const source = new EventSource(`/api/sites/${siteId}/live`);
    let heard: { version: number; by: string } | null = null;
    const bring = (): void => {
      const { version, saving } = draft.store.getState();
      // One's own save tells by itself what it met; what came after it is brought when it is over.
      if (heard === null || saving) return;
      const news = heard;
      heard = null;
      if (news.version <= version) return;
      void request<{ version: number; file: SiteFile }>("GET", `/api/sites/${siteId}/revisions`).then(
        (now) => draft.meet({ by: news.by, ...now }),
        () => {},
      );
    };
    source.onmessage = ({ data }) => {
      const { version, by = "Someone" } = JSON.parse(data) as { version?: number; by?: string };
      if (version !== undefined) heard = { version, by };
      bring();
    };
    const stop = draft.store.subscribe((now, before) => {
      if (before.saving && !now.saving) bring();
    });
    return () => {
      stop();
      source.close();
    };
  }, [draft]);
}
