"use client";
import { usePathname, useSearchParams } from "next/navigation";
import { useCallback } from "react";
import { dateSchema } from "@/core/dates/date-schema";

/**
 * A part of a screen's state that lives in the address: Back goes to what it was, and a link leads to it. What is usual is left out.
 *
 * @param add a change is a step of its own for Back; else it takes the place of the one before
 * @param fits what it may be; anything else in an address, an old link or a typing error, is the usual
 */
export function useScreenParam<T extends string>(
  name: string,
  usual: T,
  { add = true, fits }: { add?: boolean; fits?: (value: string) => boolean } = {},
): [T, (value: T) => void] {
  const path = usePathname();
  const params = useSearchParams();
  const given = params.get(name);
  const value = (given !== null && (fits?.(given) ?? true) ? given : usual) as T;
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

/** One of the views of a screen. */
export const oneOf =
  (views: readonly { id: string }[]) =>
  (value: string): boolean =>
    views.some((v) => v.id === value);

/** A date of the calendar, as it stands in an address. */
export const isDate = (value: string): boolean => dateSchema.safeParse(value).success;
