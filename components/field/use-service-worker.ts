"use client";
import { useEffect } from "react";

/** Keeps these pages on the phone, so that they open without a connection. */
export function useServiceWorker(): void {
  useEffect(() => {
    // Where there is none (a private window) it works as long as there is a connection.
    if ("serviceWorker" in navigator)
      void navigator.serviceWorker.register("/service-worker.js", { scope: "/field" }).catch(() => {});
    // What waits is not thrown away by the browser when room is short.
    void navigator.storage?.persist?.().catch(() => {});
  }, []);
}
