"use client";
import { usePathname, useSearchParams } from "next/navigation";
import { useCallback } from "react";

/**
 * A part of a screen's state that lives in the address: Back goes to what it was, and a link leads to it. What is usual is left out.
 *
 * @param add a change is a step of its own for Back; else it takes the place of the one before
 */
export function useScreenParam<T extends string>(
  name: string,
  usual: T,
  { add = true }: { add?: boolean } = {},
): [T, (value: T) => void] {
  const path = usePathname();
  const params = useSearchParams();
  const value = (params.get(name) ?? usual) as T;
  const set = useCallback(
    (next: T): void => {
      const now = new URLSearchParams(window.location.search);
      if (next === usual) now.delete(name);
      else now.set(name, next);
      const text = now.toString();
      const url = `${path}${text === "" ? "" : `?${text}`}`;
      if (add) window.history.pushState(null, "", url);
      else window.history.replaceState(null, "", url);
    },
    [name, usual, path, add],
  );
  return [value, set];
}
