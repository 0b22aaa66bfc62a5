"use client";
import { useEffect } from "react";
import { useWorkspace } from "@/components/draft/site-draft";
import { isDate, useScreenParam } from "./use-screen-param";

/** The night every screen of the site speaks of; on a screen that can change it, it is in the address too. */
export function useNightDate(): [string, (date: string) => void] {
  const { date, setDate } = useWorkspace("date", "setDate");
  const [inAddress, putInAddress] = useScreenParam<string>("date", "", { add: false, fits: isDate });
  useEffect(() => {
    if (inAddress !== "") setDate(inAddress);
  }, [inAddress, setDate]);
  return [
    date,
    (to) => {
      setDate(to);
      putInAddress(to);
    },
  ];
}
