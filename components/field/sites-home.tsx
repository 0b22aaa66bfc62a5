"use client";
import { useQuery } from "@tanstack/react-query";
import { Siren } from "lucide-react";
import { useTranslations } from "next-intl";
import { useDeferredValue, useState } from "react";
import { request } from "@/components/data/request";
import { Button } from "@/components/kit/button";
import { conventions } from "@/components/kit/conventions";
import { Toggle } from "@/components/kit/inputs";
import { Problem } from "@/components/kit/notice";
import type { RoundsPage } from "@/contracts/rounds";
import { FieldHead } from "./field-head";
import { InstallPart } from "./install-part";
import { Part, Words } from "./parts";
import { usePhone } from "./store/phone";
import type { KeptSite } from "./store/phone-db";
import { usePlace } from "./use-place";

/** The sites that this phone has along, and with a connection the others, to be taken along. */
export function SitesHome() {
  const t = useTranslations("sites");
  const sites = usePhone((s) => s.sites);
  const online = usePhone((s) => s.online);
  const along = sites.filter((s) => s.along).sort((a, b) => nameOf(a).localeCompare(nameOf(b)));
  return (
    <>
      <FieldHead title={t("title")} home />
      <main className="px-4 pb-8">
        <Others />
        {along.length > 0 && (
          <Part title={t("along")}>
            <ul>
              {along.map((kept) => (
                <SiteLine
                  key={kept.siteId}
                  siteId={kept.siteId}
                  name={nameOf(kept)}
                  alarms={kept.pack.alarms.filter((a) => a.state !== "cleared").length}
                  kept={kept}
                />
              ))}
            </ul>
          </Part>
        )}
        {along.length === 0 && <p className="py-3 text-lg">{t("none")}</p>}
        {online ? <MoreSites along={along} /> : <p className="py-3 text-faint">{t("onlyAlong")}</p>}
        <InstallPart />
      </main>
    </>
  );
}

const nameOf = (kept: KeptSite): string => kept.pack.file.site.name;

/** Another person's entries on this phone: nobody else can send them. */
function Others() {
  const t = useTranslations("frame");
  const others = usePhone((s) => s.others);
  return others.map(({ name, count }) => (
    <p key={name} role="status" className="py-2">
      {t("others", { name, count })}
    </p>
  ));
}

function MoreSites({ along }: { along: KeptSite[] }) {
  const t = useTranslations("sites");
  const [find, setFind] = useState("");
  const asked = useDeferredValue(find.trim());
  const found = useQuery({
    queryKey: ["field", "sites", asked],
    queryFn: () => request<RoundsPage>("GET", `/api/rounds?${new URLSearchParams({ find: asked, sort: "need" })}`),
    placeholderData: (before) => before,
  });
  const rows = (found.data?.rows ?? []).filter((r) => !along.some((k) => k.siteId === r.id));
  const left = (found.data?.found ?? 0) - (found.data?.rows.length ?? 0);
  return (
    <Part title={t("others")}>
      <Words label={t("find")} value={find} most={200} lines={1} onChange={setFind} />
      {found.error && <Problem>{found.error.message}</Problem>}
      {found.data?.rows.length === 0 && <p>{t("nothingFound")}</p>}
      <ul>
        {rows.map((r) => (
          <SiteLine key={r.id} siteId={r.id} name={r.name} alarms={r.openAlarms} kept={null} />
        ))}
      </ul>
      {left > 0 && <p className="py-2 text-faint">{t("more", { count: left })}</p>}
    </Part>
  );
}

function SiteLine({
  siteId,
  name,
  alarms,
  kept,
}: {
  siteId: string;
  name: string;
  alarms: number;
  kept: KeptSite | null;
}) {
  const t = useTranslations("sites");
  const { go } = usePlace();
  const language = usePhone((s) => s.language);
  const read = usePhone((s) => s.read);
  const putBack = usePhone((s) => s.putBack);
  const [busy, setBusy] = useState(false);
  const [problem, setProblem] = useState<string | null>(null);
  const take = (on: boolean): void => {
    setBusy(true);
    setProblem(null);
    (on ? read(siteId, true) : putBack(siteId))
      .catch((error: Error) => setProblem(error.message))
      .finally(() => setBusy(false));
  };
  const site = kept?.pack.file.site;
  return (
    <li className="border-b border-base-300 py-1">
      <div className="flex items-center gap-2">
        <Button rank="bare" className="min-h-14 min-w-0 grow" onClick={() => go({ siteId, job: "site" })}>
          <span className="block truncate text-lg font-semibold">{name}</span>
          {alarms > 0 && (
            <span className="flex items-center gap-1 text-error">
              <Siren className="size-4" aria-hidden /> {t("needs", { count: alarms })}
            </span>
          )}
          {kept && site && (
            <span className="block text-sm text-faint">
              {t("alongAt", { moment: conventions(site.units, site.timeZone, language).here(kept.pack.at) })}
            </span>
          )}
        </Button>
        <label className="flex min-h-14 min-w-20 cursor-pointer flex-col items-center justify-center gap-1 text-xs">
          <Toggle
            checked={kept !== null}
            disabled={busy}
            aria-label={`${t("takeAlong")}: ${name}`}
            onChange={(e) => take(e.target.checked)}
          />
          <span aria-hidden>{t("takeAlong")}</span>
        </label>
      </div>
      {problem && <Problem>{problem}</Problem>}
    </li>
  );
}
