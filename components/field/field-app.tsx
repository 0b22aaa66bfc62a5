"use client";
import { NextIntlClientProvider, useTranslations } from "next-intl";
import { useEffect } from "react";
import { LanguageProvider } from "@/components/kit/conventions";
import { InBrowser } from "@/components/kit/in-browser";
import { MESSAGES } from "@/messages/messages";
import { FieldHead } from "./field-head";
import { JobBar } from "./job-bar";
import { AlarmsJob } from "./jobs/alarms/alarms-job";
import { LearnJob } from "./jobs/learn/learn-job";
import { SiteJob } from "./jobs/site/site-job";
import { VisitJob } from "./jobs/visit/visit-job";
import { WalkJob } from "./jobs/walk/walk-job";
import { Big } from "./parts";
import { SiteHereProvider, useSiteHere } from "./site-here";
import { SitesHome } from "./sites-home";
import { usePhone } from "./store/phone";
import { type Job, usePlace } from "./use-place";
import { useServiceWorker } from "./use-service-worker";
import { useSitePack } from "./use-site-pack";
import { WaitingList } from "./waiting-list";
import "./words";

/** The work at the valve box: five jobs, one hand, with or without a connection. Everything is read from this phone and kept on it first. */
export function FieldApp() {
  return (
    <InBrowser>
      <Begun />
    </InBrowser>
  );
}

function Begun() {
  const begin = usePhone((s) => s.begin);
  const language = usePhone((s) => s.language);
  useEffect(() => begin(), [begin]);
  useServiceWorker();
  useEffect(() => {
    document.documentElement.lang = language;
    // The page may be one that was kept: the browser knows the theme better.
    if (/(?:^|; )presa_theme=night/.test(document.cookie)) document.documentElement.dataset["theme"] = "night";
  }, [language]);
  return (
    <NextIntlClientProvider locale={language} messages={MESSAGES[language]} timeZone="UTC">
      <LanguageProvider language={language}>
        <div className="field-mode mx-auto flex min-h-dvh max-w-xl flex-col">
          <Where />
        </div>
      </LanguageProvider>
    </NextIntlClientProvider>
  );
}

function Where() {
  const t = useTranslations("frame");
  const person = usePhone((s) => s.person);
  const { siteId, waiting } = usePlace();
  if (person === undefined) return <p className="p-4">{t("reading")}</p>;
  if (person === null) return <Door />;
  if (waiting) return <WaitingList />;
  return siteId === null ? <SitesHome /> : <AtSite siteId={siteId} />;
}

/** Nobody has signed in on this phone yet, or not any more. */
function Door() {
  const t = useTranslations("frame");
  const door = usePhone((s) => s.door);
  return (
    <main className="grid gap-4 p-6">
      <h1 className="text-2xl font-semibold">Presa</h1>
      <p role="status" className="text-lg">
        {door === "wiped" ? t("wiped") : t("signedOut")}
      </p>
      <a href="/sign-in?to=/field" className="btn btn-neutral min-h-14 text-lg">
        {t("signIn")}
      </a>
    </main>
  );
}

const VIEWS: Record<Job, () => React.ReactNode> = {
  site: SiteJob,
  walk: WalkJob,
  learn: LearnJob,
  alarms: AlarmsJob,
  visit: VisitJob,
};

function AtSite({ siteId }: { siteId: string }) {
  const t = useTranslations("frame");
  const { kept, problem, again } = useSitePack(siteId);
  const { go } = usePlace();
  if (!kept)
    return (
      <>
        <FieldHead title="Presa" home />
        <main className="grid gap-3 p-4">
          <p role="status">{problem ?? t("reading")}</p>
          {problem && <Big onClick={again}>{t("again")}</Big>}
          <Big onClick={() => go({ siteId: null })}>{t("backToSites")}</Big>
        </main>
      </>
    );
  return (
    <SiteHereProvider kept={kept} key={siteId}>
      <FieldHead title={kept.pack.file.site.name} />
      <main className="grow px-4 pb-28">
        <OneJob />
      </main>
      <JobBar />
    </SiteHereProvider>
  );
}

function OneJob() {
  const t = useTranslations("frame");
  const { mayEnter } = useSiteHere();
  const { job } = usePlace();
  const View = VIEWS[job];
  return (
    <>
      {!mayEnter && <p className="py-2 text-faint">{t("lookOnly")}</p>}
      <View />
    </>
  );
}
