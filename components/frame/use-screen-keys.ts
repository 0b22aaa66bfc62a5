"use client";
import { useEffect } from "react";
import { useDraftOf, useWorkspace } from "@/components/draft/site-draft";
import { isTyping } from "@/components/kit/typing";
import { SCREENS } from "@/core/summary/progress";
import { useLeave } from "./leave-guard";

/** Keys that every screen of a site hears, while nobody types and no page lies over it. */
export function useScreenKeys({
  onKeys,
  onCommand,
  onSearch,
}: Record<"onKeys" | "onCommand" | "onSearch", () => void>): void {
  const leave = useLeave();
  const { undo, redo, toggleUnits } = useDraftOf();
  const { siteId } = useWorkspace("siteId");
  useEffect(() => {
    const plain: Record<string, () => void> = {
      r: () => leave("/"),
      "?": onKeys,
      ":": onCommand,
      u: toggleUnits,
      ".": () => leave(`/sites/${siteId}/findings`),
      b: () => leave(`/sites/${siteId}/waterworks#binding`),
      d: () => document.querySelector<HTMLElement>('[aria-label="Unsaved changes"] button')?.focus(),
      f: () => document.querySelector<HTMLElement>("[data-find]")?.focus(),
      "/": onSearch,
      ...Object.fromEntries(SCREENS.map((s, i) => [String((i + 1) % 10), () => leave(`/sites/${siteId}/${s}`)])),
    };
    const withCtrl: Record<string, () => void> = { z: undo, y: redo, Z: redo };
    const onKey = (event: KeyboardEvent): void => {
      if (isTyping(event) || document.querySelector("dialog[open]")) return;
      const act = event.ctrlKey ? withCtrl[event.key] : plain[event.key];
      if (!act) return;
      event.preventDefault();
      act();
    };
    window.addEventListener("keydown", onKey);
    return () => window.removeEventListener("keydown", onKey);
  }, [leave, undo, redo, toggleUnits, siteId, onKeys, onCommand, onSearch]);
}
