"use client";
import { useTranslations } from "next-intl";
import { Careful, Part } from "../../parts";
import { useSiteHere } from "../../site-here";
import { known } from "../../words";
import { MESSAGES } from "@/messages/messages";

const place = (e: { description?: string | undefined; notes?: string | undefined }): string =>
  [e.description, e.notes].filter(Boolean).join(". ");

/** Where the water is shut off by hand, which valve, in words; the same as the sheet of paper. */
export function EmergencyCard() {
  const t = useTranslations("emergency");
  const { file } = useSiteHere().site;
  return (
    <Part title={t("title")}>
      <p>{place(file.site)}</p>
      <Careful>{t("caution")}</Careful>
      <h3 className="mt-3 font-semibold">{t("controllers")}</h3>
      <dl>
        {file.controllers.map((c) => (
          <Fact key={c.id} name={c.name} words={place(c) || t("controllerUnknown")} />
        ))}
      </dl>
      <h3 className="mt-3 font-semibold">{t("water")}</h3>
      {file.pocs.map((p) => (
        <PocFacts key={p.id} pocId={p.id} />
      ))}
      <h3 className="mt-3 font-semibold">{t("call")}</h3>
      <p>{["manager", "contractor", "supplier", "electrician"].map((r) => t(r as "manager")).join(" · ")}</p>
      <p className="text-sm text-faint">{t("callPhone")}</p>
    </Part>
  );
}

function PocFacts({ pocId }: { pocId: string }) {
  const t = useTranslations("emergency");
  const { file } = useSiteHere().site;
  const poc = file.pocs.find((p) => p.id === pocId);
  if (!poc) return null;
  const has = (kind: string): boolean => poc.devices.some((d) => d.kind === kind);
  const from = file.sources
    .filter((s) => poc.sourceIds.includes(s.id))
    .map((s) => `${s.name} (${t(known(MESSAGES.en.emergency, s.kind, "other"))})`);
  const masters = poc.devices.flatMap((d) => {
    if (d.kind !== "masterValve") return [];
    const by = file.controllers.find((c) => c.id === d.controllerId)?.name;
    const words = t("masterValve", { name: d.name ?? t("master"), normally: d.normally });
    return by ? `${words}; ${t("switchedBy", { name: by })}` : words;
  });
  return (
    <dl className="border-b border-base-300 py-2">
      <Fact name={poc.name} words={place(poc) || t("whereUnknown")} loud />
      <Fact name={t("from")} words={from.join(", ")} />
      <Fact name={t("byHand")} words={has("backflow") ? t("backflowValve") : t("meterValve")} loud />
      <Fact name={t("master")} words={masters.join(". ")} />
      <Fact name={t("pump")} words={has("pump") ? t("pumpFirst") : ""} />
    </dl>
  );
}

function Fact({ name, words, loud }: { name: string; words: string; loud?: boolean }) {
  if (words === "") return null;
  return (
    <div className="py-0.5">
      <dt className="text-sm text-faint">{name}</dt>
      <dd className={loud ? "text-lg font-semibold" : "text-lg"}>{words}</dd>
    </div>
  );
}
