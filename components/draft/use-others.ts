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
    source.onmessage = ({ data }) => {
      const news = JSON.parse(data) as { type: string; version?: number; by?: string };
      const { version, saving } = draft.store.getState();
      if (news.version === undefined || news.version <= version || saving) return;
      void request<SiteFile>("GET", `/api/sites/${siteId}/file`).then(
        (file) => draft.meet({ file, version: news.version as number, by: news.by ?? "Someone" }),
        () => {},
      );
    };
    return () => source.close();
  }, [draft]);
}
