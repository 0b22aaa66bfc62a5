"use client";
import { createContext, useContext, useMemo } from "react";
import { type Conventions, conventions } from "@/components/kit/conventions";
import type { Along } from "@/contracts/along";
import type { Entered } from "@/contracts/entries";
import { usePhone } from "./store/phone";
import type { KeptSite } from "./store/phone-db";
import { withWaiting } from "./store/with-waiting";

type SiteHere = {
  siteId: string;
  /** As it will stand once what waits is sent. */
  site: Along;
  conventions: Conventions;
  mayEnter: boolean;
  /** Keeps something entered until it is sent. @param subject what it is about @param draft under which it was typed */
  enter: (what: Entered, subject: string, draft?: string) => Promise<void>;
};
const Context = createContext<SiteHere | null>(null);

export function SiteHereProvider({ kept, children }: { kept: KeptSite; children: React.ReactNode }) {
  const waiting = usePhone((s) => s.waiting);
  const language = usePhone((s) => s.language);
  const name = usePhone((s) => s.person?.name ?? "");
  const keep = usePhone((s) => s.enter);
  const { siteId, pack } = kept;
  const site = useMemo(() => withWaiting(pack, waiting, name), [pack, waiting, name]);
  const value = useMemo(
    (): SiteHere => ({
      siteId,
      site,
      conventions: conventions(pack.file.site.units, pack.file.site.timeZone, language),
      mayEnter: pack.role !== "viewer",
      enter: (what, subject, draft) => keep(siteId, what, subject, draft),
    }),
    [siteId, site, pack, language, keep],
  );
  return <Context value={value}>{children}</Context>;
}

export function useSiteHere(): SiteHere {
  const value = useContext(Context);
  if (!value) throw new Error("There is no site around this part.");
  return value;
}
