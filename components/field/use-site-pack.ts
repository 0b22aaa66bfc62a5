"use client";
import { useTranslations } from "next-intl";
import { useCallback, useEffect, useState } from "react";
import { RequestRefused } from "@/components/data/request";
import { ALONG_SHAPE } from "@/contracts/along";
import { usePhone } from "./store/phone";
import type { KeptSite } from "./store/phone-db";

/** While somebody looks at a site it is read anew so often, ms. */
const AGAIN_MS = 60_000;

/** What is kept of a site is shown at once; with a connection it is read anew meanwhile. */
export function useSitePack(siteId: string): { kept: KeptSite | null; problem: string | null; again: () => void } {
  const t = useTranslations("frame");
  const kept = usePhone((s) => s.sites.find((k) => k.siteId === siteId && k.pack.shape === ALONG_SHAPE) ?? null);
  const online = usePhone((s) => s.online);
  const read = usePhone((s) => s.read);
  const contact = usePhone((s) => s.contact);
  const [problem, setProblem] = useState<string | null>(null);
  const look = useCallback(() => {
    setProblem(null);
    read(siteId).catch((error) =>
      setProblem(error instanceof RequestRefused && error.code === "notFound" ? t("notYours") : t("gone")),
    );
  }, [siteId, read, t]);
  useEffect(() => {
    if (!online) return;
    look();
    // An alarm that is raised meanwhile is seen without asking.
    const timer = setInterval(() => {
      if (document.visibilityState === "visible") look();
    }, AGAIN_MS);
    return () => clearInterval(timer);
  }, [look, online]);
  return { kept, problem: problem ?? (online ? null : t("gone")), again: () => void contact().then(look) };
}
