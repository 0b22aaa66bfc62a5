"use client";
import { useTranslations } from "next-intl";
import { useEffect, useState } from "react";
import { Big, Part } from "./parts";

/** What browsers send that can put a page on the home screen. */
type Installing = Event & { prompt: () => Promise<unknown> };

/** Where the browser offers it: Presa on the home screen. */
export function InstallPart() {
  const t = useTranslations("sites");
  const [installing, setInstalling] = useState<Installing | null>(null);
  useEffect(() => {
    const offered = (event: Event): void => {
      event.preventDefault();
      setInstalling(event as Installing);
    };
    window.addEventListener("beforeinstallprompt", offered);
    return () => window.removeEventListener("beforeinstallprompt", offered);
  }, []);
  if (!installing) return null;
  return (
    <Part title={t("install")}>
      <p className="mb-2">{t("installWords")}</p>
      <Big className="w-full" onClick={() => void installing.prompt().then(() => setInstalling(null))}>
        {t("install")}
      </Big>
    </Part>
  );
}
