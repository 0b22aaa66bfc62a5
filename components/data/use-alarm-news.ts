"use client";
import { useEffect, useRef } from "react";

/** Calls back whenever something about the organisation's alarms has changed; asks again by itself after a lost connection. */
export function useAlarmNews(onNews: () => void): void {
  const call = useRef(onNews);
  call.current = onNews;
  useEffect(() => {
    const events = new EventSource("/api/alarms/live");
    let before = false;
    events.onmessage = ({ data }) => {
      const { type } = JSON.parse(data) as { type: string };
      // Watching anew after a break: something may have been missed.
      if (type === "alarms" || before) call.current();
      if (type === "watching") before = true;
    };
    return () => events.close();
  }, []);
}
