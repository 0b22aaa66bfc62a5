"use client";
import { useEffect, useRef, useState } from "react";
import { classes } from "./classes";

/** What may be wider or taller than its place. Where it is, the keyboard reaches it and the arrows scroll it. */
export function Scroller({ children, className }: { children: React.ReactNode; className?: string }) {
  const box = useRef<HTMLDivElement>(null);
  const [over, setOver] = useState(false);
  useEffect(() => {
    const at = box.current;
    if (!at) return;
    const seen = new ResizeObserver(() =>
      setOver(at.scrollWidth > at.clientWidth + 1 || at.scrollHeight > at.clientHeight + 1),
    );
    seen.observe(at);
    if (at.firstElementChild) seen.observe(at.firstElementChild);
    return () => seen.disconnect();
  }, []);
  const reached = over ? { role: "group", "aria-label": "More to the side or below", tabIndex: 0 } : {};
  return (
    <div ref={box} className={classes("overflow-auto", className)} {...reached}>
      {children}
    </div>
  );
}
