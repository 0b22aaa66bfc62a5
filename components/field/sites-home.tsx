"use client";
import { useQuery } from "@tanstack/react-query";
import { Siren } from "lucide-react";
import { useTranslations } from "next-intl";
import { useDeferredValue, useState } from "react";
import { request } from "@/components/data/request";
import { Button } from "@/components/kit/button";
import { conventions } from "@/components/kit/conventions";
import { ChoiceField } from "@/components/kit/fields";
import { Toggle } from "@/components/kit/inputs";
import { Problem } from "@/components/kit/notice";
import type { RoundsChoice, RoundsPage } from "@/contracts/rounds";
import { FieldHead } from "./field-head";
import { InstallPart } from "./install-part";
import { Big, Part, Words } from "./parts";
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
  const [crew, setCrew] = useState("");
  const words = useDeferredValue(find.trim());
  const asked = new URLSearchParams({ find: words, sort: "need", ...(crew ? { within: crew } : {}) }).toString();
  const found = useQuery({
    queryKey: ["field", "sites", asked],
    queryFn: () => request<RoundsPage>("GET", `/api/rounds?${asked}`),
    placeholderData: (before) => before,
  });
  const rows = (found.data?.rows ?? []).filter((r) => !along.some((k) => k.siteId === r.id));
  const left = (found.data?.found ?? 0) - (found.data?.rows.length ?? 0);
  return (
    <Part title={t("others")}>
      <Words label={t("find")} value={find} most={200} lines={1} onChange={setFind} />
      <CrewChoice crew={crew} onChoose={setCrew} />
      {found.error && <Problem>{found.error.message}</Problem>}
      {found.data?.rows.length === 0 && <p>{t("nothingFound")}</p>}
      <ul>
        {rows.map((r) => (
          <SiteLine key={r.id} siteId={r.id} name={r.name} alarms={r.openAlarms} kept={null} />
        ))}
      </ul>
      {crew !== "" && rows.length > 0 && <TakeAll ids={rows.slice(0, MOST_AT_ONCE).map((r) => r.id)} />}
      {left > 0 && <p className="py-2 text-faint">{t("more", { count: left })}</p>}
    </Part>
  );
}

/** A crew's own sites, where the office has sorted them so. */
function CrewChoice({ crew, onChoose }: { crew: string; onChoose: (crew: string) => void }) {
  const t = useTranslations("sites");
  const { data } = useQuery({
    queryKey: ["field", "crews"],
    queryFn: () => request<{ choices: RoundsChoice[] }>("GET", "/api/rounds/choices"),
    staleTime: 60_000,
  });
  const crews = (data?.choices ?? []).filter((c) => c.kind === "crew");
  if (crews.length === 0) return null;
  return (
    <ChoiceField
      label={t("round")}
      value={crew}
      options={[["", t("everyone")], ...crews.map((c) => [c.value, c.name] as const)]}
      onCommit={onChoose}
    />
  );
}

/** A round has no more stops in a day. */
const MOST_AT_ONCE = 20;

/** Today's round in one press, one site after the other. */
function TakeAll({ ids }: { ids: readonly string[] }) {
  const t = useTranslations("sites");
  const read = usePhone((s) => s.read);
  const [busy, setBusy] = useState(false);
  const [problem, setProblem] = useState<string | null>(null);
  const take = async (): Promise<void> => {
    setBusy(true);
    setProblem(null);
    try {
      for (const id of ids) await read(id, true);
    } catch (error) {
      setProblem(error instanceof Error ? error.message : String(error));
    } finally {
      setBusy(false);
    }
  };
  return (
    <>
      <Big className="mt-3 w-full" disabled={busy} onClick={() => void take()}>
        {t("takeAll", { count: ids.length })}
      </Big>
      {problem && <Problem>{problem}</Problem>}
    </>
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
