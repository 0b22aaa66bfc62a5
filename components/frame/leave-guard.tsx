"use client";
import { usePathname, useRouter, useSearchParams } from "next/navigation";
import { createContext, useCallback, useContext, useEffect, useRef, useState } from "react";
import { useDraft } from "@/components/draft/site-draft";
import { Button } from "@/components/kit/button";
import { Dialog } from "@/components/kit/dialog";

const Context = createContext<(url: string) => void>(() => {});

/** Goes somewhere; out of the site only after asking, where something is not saved. */
export const useLeave = (): ((url: string) => void) => useContext(Context);

/** Every way out of a site with unsaved work asks first: links, keys, Back, closing the page. */
export function LeaveGuard({ siteId, children }: { siteId: string; children: React.ReactNode }) {
  const router = useRouter();
  const changed = useDraft((s) => s.draft !== s.base);
  const [to, setTo] = useState<string | null>(null);
  const home = `/sites/${siteId}/`;
  const dirty = useRef(changed);
  useEffect(() => {
    dirty.current = changed;
  }, [changed]);
  const path = usePathname();
  const params = useSearchParams();
  /** The address as it was before Back was pressed. */
  const here = useRef("");
  useEffect(() => {
    here.current = params.size > 0 ? `${path}?${params}` : path;
  }, [path, params]);
  const stays = useCallback((url: string) => new URL(url, location.href).pathname.startsWith(home), [home]);

  useEffect(() => {
    const unload = (event: BeforeUnloadEvent): void => {
      if (dirty.current) event.preventDefault();
    };
    const click = (event: MouseEvent): void => {
      const link = (event.target as Element | null)?.closest?.("a[href]");
      const plain = event.button === 0 && !event.ctrlKey && !event.metaKey && !event.shiftKey;
      if (!(link instanceof HTMLAnchorElement) || !plain || link.target === "_blank" || link.hasAttribute("download"))
        return;
      if (!dirty.current || link.origin !== location.origin || stays(link.href) || link.pathname.startsWith("/api/"))
        return;
      event.preventDefault();
      event.stopPropagation();
      setTo(link.pathname + link.search);
    };
    const back = (event: PopStateEvent): void => {
      if (!dirty.current || stays(location.href)) return;
      event.stopImmediatePropagation();
      const wanted = location.pathname + location.search;
      history.pushState(null, "", here.current);
      setTo(wanted);
    };
    window.addEventListener("beforeunload", unload);
    document.addEventListener("click", click, true);
    window.addEventListener("popstate", back, true);
    return () => {
      window.removeEventListener("beforeunload", unload);
      document.removeEventListener("click", click, true);
      window.removeEventListener("popstate", back, true);
    };
  }, [stays]);

  const leave = useCallback(
    (url: string): void => {
      if (dirty.current && !stays(url)) setTo(url);
      else router.push(url);
    },
    [router, stays],
  );
  return (
    <Context.Provider value={leave}>
      {children}
      <Dialog title="Leave with unsaved changes?" open={to !== null} onClose={() => setTo(null)}>
        <p>What you changed on this site is not saved. Leaving throws it away.</p>
        <div className="mt-4 flex flex-wrap gap-2">
          <Button rank="main" onClick={() => setTo(null)}>
            Stay here
          </Button>
          <Button
            rank="danger"
            onClick={() => {
              dirty.current = false;
              const url = to ?? "/";
              setTo(null);
              router.push(url);
            }}
          >
            Leave without saving
          </Button>
        </div>
      </Dialog>
    </Context.Provider>
  );
}
