"use client";
import { useEffect, useState } from "react";
import type { SiteFile } from "@/core/site-file/schema";
import type { NightAnswer } from "@/core/summary/night-answer";
import { computeNight } from "./compute";

/** The night of a site that is not the draft; null while it is worked out, or where there is none to work out. */
export function useNightOf(site: SiteFile | null, date: string): NightAnswer | null {
  const [found, setFound] = useState<{ site: SiteFile; date: string; night: NightAnswer } | null>(null);
  useEffect(() => {
    if (!site) return;
    let gone = false;
    const job = computeNight(site, date);
    job.promise.then(
      (night) => {
        if (!gone) setFound({ site, date, night });
      },
      () => {},
    );
    return () => {
      gone = true;
      job.cancel();
    };
  }, [site, date]);
  return site && found?.site === site && found.date === date ? found.night : null;
}
