"use client";
import { useEffect, useRef } from "react";

/** Calls back whenever something about the organisation's alarms has changed, and when it begins to listen, at first and after a lost connection: what was told before nobody heard. */
export function useAlarmNews(onNews: () => void): void {
  const call = useRef(onNews);
  call.current = onNews;
  useEffect(() => {
    const events = new EventSource("/api/alarms/live");
    events.onmessage = ({ data }) => {
      const { type } = JSON.parse(data) as { type: string };
      if (type === "alarms" || type === "watching") call.current();
    };
    return () => events.close();
  }, []);
}
