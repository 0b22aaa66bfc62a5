"use client";
import dynamic from "next/dynamic";
import { useCallback, useEffect, useState } from "react";
import { isTyping } from "@/components/kit/typing";

/** Loaded when it is first asked for. */
export const SearchEverything = dynamic(() => import("./search-everything").then((m) => m.SearchEverything), {
  ssr: false,
});

/** Whether somebody is searching; undefined until they first do. */
export function useSearching() {
  const [searching, setSearching] = useState<boolean>();
  const onSearch = useCallback(() => setSearching(true), []);
  const onClose = useCallback(() => setSearching(false), []);
  return { searching, onSearch, onClose };
}

/** Keys of the pages that belong to no site: / searches everything, f goes to the page's own find field. */
export function usePageKeys(onSearch: () => void): void {
  useEffect(() => {
    const onKey = (e: KeyboardEvent): void => {
      if (isTyping(e) || e.ctrlKey || document.querySelector("dialog[open]")) return;
      const act = { "/": onSearch, f: () => document.querySelector<HTMLElement>("[data-find]")?.focus() }[e.key];
      if (!act) return;
      e.preventDefault();
      act();
    };
    window.addEventListener("keydown", onKey);
    return () => window.removeEventListener("keydown", onKey);
  }, [onSearch]);
}
