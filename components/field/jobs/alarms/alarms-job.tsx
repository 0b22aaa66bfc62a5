"use client";
import { useTranslations } from "next-intl";
import { Part } from "../../parts";
import { useSiteHere } from "../../site-here";
import { AlarmPart } from "./alarm-part";

/** What is open at this site, and what was cleared last. */
export function AlarmsJob() {
  const t = useTranslations("alarms");
  const { site } = useSiteHere();
  const open = site.alarms.filter((a) => a.state !== "cleared");
  const cleared = site.alarms.filter((a) => a.state === "cleared").slice(0, 3);
  return (
    <>
      {open.length === 0 && <p className="py-4 text-lg">{t("none")}</p>}
      {open.map((a) => (
        <AlarmPart key={a.id} alarm={a} />
      ))}
      {cleared.length > 0 && (
        <Part title={t("lastCleared")}>
          {cleared.map((a) => (
            <AlarmPart key={a.id} alarm={a} />
          ))}
        </Part>
      )}
    </>
  );
}
