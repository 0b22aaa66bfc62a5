"use client";
import { useRouter } from "next/navigation";
import { useEffect, useRef } from "react";
import { toast } from "sonner";
import { request } from "@/components/data/request";
import { useAlarmNews } from "@/components/data/use-alarm-news";
import { KIND_WORDS } from "@/components/words/alarm-words";
import type { AlarmList } from "@/contracts/alarms";

/** So many are told one by one; more at once are counted. */
const ONE_BY_ONE = 3;
/** An alarm that is older when it is first seen is no news. */
const NEW_MS = 10 * 60_000;

/** Tells a new alarm on whatever page is open, with a way to it. */
export function AlarmToasts() {
  const router = useRouter();
  const known = useRef<Set<string> | null>(null);
  const looking = useRef({ now: false, again: false });
  /** What is being asked already may have been answered before this news: then it is asked once more. */
  const look = async (): Promise<void> => {
    const at = looking.current;
    at.again = true;
    if (at.now) return;
    at.now = true;
    try {
      while (at.again) {
        at.again = false;
        await lookOnce();
      }
    } finally {
      at.now = false;
    }
  };
  const lookOnce = async (): Promise<void> => {
    const { alarms } = await request<AlarmList>("GET", "/api/alarms?state=open");
    const before = known.current;
    known.current = new Set(alarms.map((a) => a.id));
    if (!before) return;
    const fresh = alarms.filter((a) => !before.has(a.id) && !a.rehearsed && Date.now() - Date.parse(a.at) < NEW_MS);
    if (fresh.length > ONE_BY_ONE)
      toast.error(`${fresh.length} new alarms`, {
        action: { label: "See them", onClick: () => router.push("/alarms") },
      });
    else
      for (const a of fresh)
        toast.error(`${a.siteName}: ${KIND_WORDS[a.kind] ?? a.kind}`, {
          description: a.message,
          action: { label: "See it", onClick: () => router.push(`/sites/${a.siteId}/log?view=alarms&at=${a.id}`) },
        });
  };
  const first = useRef(look);
  useEffect(() => {
    // What stands open already is no news.
    first.current().catch(() => {});
  }, []);
  useAlarmNews(() => void look().catch(() => {}));
  return null;
}
