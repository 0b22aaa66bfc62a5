"use client";
import { useEffect, useState } from "react";
import { hearStream } from "@/components/data/shared-stream";
import { useSiteHere } from "./site-here";
import { usePhone } from "./store/phone";

/** What the site's gateway reads: flow by sensor, L/min; null where it reads nothing. `since`: how long this has been open, ms. */
export type Live = { at: string; flow: Record<string, number | null>; open: string[]; since: number };

/** Older than this it says nothing of now. */
const OLD_MS = 30_000;

/** The newest reading while somebody looks, where a gateway speaks and there is a connection. */
export function useLive(): Live | null {
  const { siteId, site } = useSiteHere();
  const online = usePhone((s) => s.online);
  const [live, setLive] = useState<Live | null>(null);
  const heard = site.gateway !== null && online;
  useEffect(() => {
    if (!heard) return;
    let openFrom = { open: "", at: Date.now() };
    const deaf = hearStream(`/api/sites/${siteId}/field/live`, (data) => {
      const news = JSON.parse(data) as { type: string } & Omit<Live, "since">;
      if (news.type !== "reading" || Date.now() - Date.parse(news.at) > OLD_MS) return;
      const open = [...news.open].sort().join();
      if (open !== openFrom.open) openFrom = { open, at: Date.now() };
      setLive({ at: news.at, flow: news.flow, open: news.open, since: Date.now() - openFrom.at });
    });
    return () => {
      deaf();
      setLive(null);
    };
  }, [siteId, heard]);
  return live;
}
