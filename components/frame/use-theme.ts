"use client";
import { useSyncExternalStore } from "react";

export type Theme = "day" | "night";

const themeNow = (): Theme => (document.documentElement.dataset["theme"] === "night" ? "night" : "day");
function watch(changed: () => void): () => void {
  const seen = new MutationObserver(changed);
  seen.observe(document.documentElement, { attributes: true, attributeFilter: ["data-theme"] });
  return () => seen.disconnect();
}

/** Day or night theme, kept with the browser and known to the server before the first paint. */
export function useTheme(): { theme: Theme; turn: () => void } {
  const theme = useSyncExternalStore(watch, themeNow, () => "day" as Theme);
  const turn = (): void => {
    const next: Theme = theme === "day" ? "night" : "day";
    document.documentElement.dataset["theme"] = next;
    // biome-ignore lint/suspicious/noDocumentCookie: the cookie store is not in every browser, and the server reads this one
    document.cookie = `presa_theme=${next}; path=/; max-age=31536000; samesite=lax`;
  };
  return { theme, turn };
}
