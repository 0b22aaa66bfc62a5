"use client";
import { useEffect, useRef } from "react";
import { isTyping } from "@/components/kit/typing";

/** Keys of a night that was run: Space runs or plays, brackets go from event to event. */
export function useBenchKeys(shown: boolean, onSpace: () => void, onEvent: (step: 1 | -1) => void): void {
  const act = useRef({ onSpace, onEvent });
  useEffect(() => {
    act.current = { onSpace, onEvent };
  });
  useEffect(() => {
    if (!shown) return;
    const onKey = (e: KeyboardEvent): void => {
      if (isTyping(e) || e.ctrlKey || document.querySelector("dialog[open]")) return;
      const pressable = (e.target as HTMLElement).closest(
        "input,button,[role=button],[role=slider],[role=tab],summary,a",
      );
      if (e.key === " " && !pressable) {
        e.preventDefault();
        act.current.onSpace();
      }
      if (e.key === "]" || e.key === "[") act.current.onEvent(e.key === "]" ? 1 : -1);
    };
    window.addEventListener("keydown", onKey);
    return () => window.removeEventListener("keydown", onKey);
  }, [shown]);
}
