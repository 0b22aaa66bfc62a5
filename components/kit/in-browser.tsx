"use client";
import { useSyncExternalStore } from "react";

const never = (): (() => void) => () => {};

const ROOM = <div className="min-h-[70dvh]" aria-busy="true" />;

/**
 * What is drawn in the browser only: the server that answers everyone does not also draw everyone's screens. Until the page has begun, as much room as it will take.
 */
export function InBrowser({ children, until = ROOM }: { children: React.ReactNode; until?: React.ReactNode }) {
  const here = useSyncExternalStore(
    never,
    () => true,
    () => false,
  );
  return here ? children : until;
}
