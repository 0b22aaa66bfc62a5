"use client";
import { type RefObject, useEffect, useRef, useState } from "react";

/** Width of an element in px, followed as it changes. */
export function useWidth(first: number): { box: RefObject<HTMLDivElement | null>; width: number } {
  const box = useRef<HTMLDivElement>(null);
  const [width, setWidth] = useState(first);
  useEffect(() => {
    const seen = new ResizeObserver(([entry]) => {
      if (entry) setWidth(entry.contentRect.width);
    });
    if (box.current) seen.observe(box.current);
    return () => seen.disconnect();
  }, []);
  return { box, width };
}
