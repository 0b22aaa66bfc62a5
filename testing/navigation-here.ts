import { useMemo, useSyncExternalStore } from "react";

/** The router's view of the address in a test without a router: what is pushed or replaced is heard at once. */
const listeners = new Set<() => void>();
for (const how of ["pushState", "replaceState"] as const) {
  const original = window.history[how].bind(window.history);
  window.history[how] = (...args) => {
    original(...args);
    for (const listener of listeners) listener();
  };
}
const subscribe = (listener: () => void): (() => void) => {
  listeners.add(listener);
  return () => listeners.delete(listener);
};
const useAddress = (read: () => string): string => useSyncExternalStore(subscribe, read, read);

export const usePathname = (): string => useAddress(() => window.location.pathname);
export function useSearchParams(): URLSearchParams {
  const text = useAddress(() => window.location.search);
  return useMemo(() => new URLSearchParams(text), [text]);
}
const router = {
  push: (url: string): void => window.history.pushState(null, "", url),
  replace: (url: string): void => window.history.replaceState(null, "", url),
  refresh: (): void => {},
  prefetch: (): void => {},
};
export const useRouter = (): typeof router => router;
