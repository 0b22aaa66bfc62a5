"use client";
import { useSyncExternalStore } from "react";

let printing = false;
function subscribe(changed: () => void): () => void {
  const paper = window.matchMedia("print");
  const turn = (to: boolean) => (): void => {
    printing = to;
    changed();
  };
  const [begin, end] = [turn(true), turn(false)];
  const media = (e: MediaQueryListEvent): void => turn(e.matches)();
  window.addEventListener("beforeprint", begin);
  window.addEventListener("afterprint", end);
  paper.addEventListener("change", media);
  return () => {
    window.removeEventListener("beforeprint", begin);
    window.removeEventListener("afterprint", end);
    paper.removeEventListener("change", media);
  };
}

/** True while the page is put on paper: what scrolls or is a picture on the screen is written out as a table then. */
export function usePrinting(): boolean {
  return useSyncExternalStore(
    subscribe,
    () => printing,
    () => false,
  );
}
