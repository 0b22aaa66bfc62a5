"use client";
import { useEffect } from "react";
import type { SiteFile } from "@/core/site-file/schema";
import type { NightsFind } from "@/workers/compute.worker";
import { computeNightsFind } from "./compute";
import { useJob } from "./use-job";

/** From which size on the readings of a night name a break of each station; null while that is worked out, where it cannot be, and without a site. */
export function useNightsFind(site: SiteFile | null, date: string): NightsFind | null {
  const { value, start } = useJob<NightsFind>();
  useEffect(() => {
    if (site) void start(() => computeNightsFind(site, date));
  }, [site, date, start]);
  return value;
}
