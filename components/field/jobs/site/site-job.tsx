"use client";
import { RefreshCw, Siren } from "lucide-react";
import { useTranslations } from "next-intl";
import { useMemo, useState } from "react";
import { addDays, localDate } from "@/core/dates/wall-time";
import { siteSensors } from "@/core/network/sensing";
import { waterworks } from "@/core/network/waterworks";
import { Big, Part } from "../../parts";
import { useSiteHere } from "../../site-here";
import { usePhone } from "../../store/phone";
import { useLive } from "../../use-live";
import { usePlace } from "../../use-place";
import { EmergencyCard } from "./emergency-card";
import { TodoPart } from "./todo-part";

/** What is due within so many days is said. */
const SOON_DAYS = 30;

/** What is wrong here, what is locked out, what it reads now, where the water is shut off, what is to do. */
export function SiteJob() {
  const t = useTranslations("site");
  const { site, siteId, conventions } = useSiteHere();
  const { go } = usePlace();
  const read = usePhone((s) => s.read);
  const online = usePhone((s) => s.online);
  const [busy, setBusy] = useState(false);
  const open = site.alarms.filter((a) => a.state !== "cleared").length;
  const hold = site.file.site.holdUntil;
  return (
    <>
      {hold && (
        <p className="mt-3 border-2 border-error p-3 text-xl font-semibold text-error">
          {hold === "indefinite" ? t("off") : t("offUntil", { date: conventions.date(hold) })}
        </p>
      )}
      <Big
        rank={open > 0 ? "danger" : "plain"}
        icon={Siren}
        className="mt-3 w-full"
        onClick={() => go({ job: "alarms" })}
      >
        {t("alarms", { count: open })}
      </Big>
      <LockedPart />
      <LivePart />
      <TodoPart />
      <DuePart />
      <EmergencyCard />
      <p className="mt-2 flex flex-wrap items-center gap-x-3 border-t border-base-300 pt-2 text-sm text-faint">
        {t("asOf", { moment: conventions.here(site.at) })}
        {online && (
          <Big
            rank="quiet"
            icon={RefreshCw}
            className="min-h-11 text-base"
            disabled={busy}
            onClick={() => {
              setBusy(true);
              void read(siteId)
                .catch(() => {})
                .finally(() => setBusy(false));
            }}
          >
            {t("refresh")}
          </Big>
        )}
      </p>
    </>
  );
}

function LockedPart() {
  const t = useTranslations("site");
  const { file } = useSiteHere().site;
  const locked = [
    ...[...file.pocs, ...file.mainlines].filter((e) => e.lockedOut).map((e) => e.name),
    ...file.stations.filter((s) => s.lockedOut).map((s) => `${s.number} ${s.name}`),
  ];
  return (
    <Part title={t("locked")}>
      {locked.length === 0 ? (
        <p>{t("nothingLocked")}</p>
      ) : (
        <>
          <ul className="text-lg font-semibold text-error">
            {locked.map((name) => (
              <li key={name}>{name}</li>
            ))}
          </ul>
          <p className="text-sm text-faint">{t("lockedWords")}</p>
        </>
      )}
    </Part>
  );
}

/** What is overdue, and what comes within the month. */
function DuePart() {
  const t = useTranslations("site");
  const { site, conventions } = useSiteHere();
  const today = localDate(site.file.site.timeZone, Math.floor(Date.now() / 1000));
  const soon = site.due.filter((d) => d.on <= addDays(today, SOON_DAYS));
  if (soon.length === 0) return null;
  return (
    <Part title={t("dueTitle")}>
      <ul className="text-lg">
        {soon.map((d) => (
          <li key={`${d.duty} ${d.subjectId}`} className={d.on < today ? "text-error" : undefined}>
            {t("dueOn", {
              what: t(`duty.${d.duty}`),
              of: d.name || "none",
              late: d.on < today ? "yes" : "no",
              date: conventions.date(d.on),
            })}
          </li>
        ))}
      </ul>
    </Part>
  );
}

function LivePart() {
  const t = useTranslations("site");
  const { site, conventions } = useSiteHere();
  const online = usePhone((s) => s.online);
  const live = useLive();
  const sensors = useMemo(() => siteSensors(waterworks(site.file)), [site.file]);
  const stations = new Map(site.file.stations.map((s) => [s.id, `${s.number}`]));
  if (!site.gateway)
    return (
      <Part title={t("live")}>
        <p className="text-faint">{t("liveNone")}</p>
      </Part>
    );
  return (
    <Part title={t("live")}>
      {!live && <p className="text-faint">{online ? t("liveWaits") : t("liveOffline")}</p>}
      {live &&
        sensors.map(({ sensor, ownerName }) => {
          const flow = live.flow[sensor.id];
          return (
            <p key={sensor.id} className="flex items-baseline justify-between gap-3">
              <span>{sensor.name ?? ownerName}</span>
              <strong className="text-2xl tabular-nums">
                {flow === null || flow === undefined ? "–" : conventions.quantity(flow, "flow")}
              </strong>
            </p>
          );
        })}
      {live && (
        <p className="text-faint">
          {live.open.length === 0
            ? t("nothingOpen")
            : t("open", { names: live.open.map((id) => stations.get(id) ?? id).join(", ") })}
        </p>
      )}
    </Part>
  );
}
