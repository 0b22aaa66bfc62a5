"use client";
import { useSyncExternalStore } from "react";
import { request } from "@/components/data/request";
import type { Theme } from "@/contracts/people";

const themeNow = (): Theme => (document.documentElement.dataset["theme"] === "night" ? "night" : "day");
function watch(changed: () => void): () => void {
  const seen = new MutationObserver(changed);
  seen.observe(document.documentElement, { attributes: true, attributeFilter: ["data-theme"] });
  return () => seen.disconnect();
}

/** Day or night theme, known to the server before the first paint; kept with the browser, and with the person wherever they sign in. */
export function useTheme(): { theme: Theme; turn: () => void } {
  const theme = useSyncExternalStore(watch, themeNow, () => "day" as Theme);
  const turn = (): void => {
    const next: Theme = theme === "day" ? "night" : "day";
    document.documentElement.dataset["theme"] = next;
    // biome-ignore lint/suspicious/noDocumentCookie: the cookie store is not in every browser, and the server reads this one
    document.cookie = `presa_theme=${next}; path=/; max-age=31536000; samesite=lax`;
    // Where it cannot be kept with the person just now, the browser has it.
    void request("PATCH", "/api/account", { theme: next }).catch(() => {});
  };
  return { theme, turn };
}
