import type { SiteFile } from "../core/site-file/schema.ts";
import type { Words } from "./in-language.ts";
import { Facts, Part, Title, Warning, Words as Lines } from "./parts.tsx";

/** Roles, whose numbers are written in by hand: Presa makes none up. */
const CALL = ["manager", "contractor", "supplier", "electrician"] as const;
const place = (e: { description?: string | undefined; notes?: string | undefined }): string =>
  [e.description, e.notes].filter(Boolean).join(". ");
type Props = { site: SiteFile; t: Words<"emergency"> };

/** Where the water and the power are shut off by hand, in words; and whom to call. */
export function EmergencyCard({ site, t }: Props) {
  return (
    <>
      <Title>{t("title")}</Title>
      <Lines>{place(site.site)}</Lines>
      <Warning>{t("caution")}</Warning>
      <Part title={t("controllers")}>
        <Facts of={site.controllers.map((c) => [c.name, place(c) || t("controllerUnknown")] as const)} />
      </Part>
      <Part title={t("water")}>
        {site.pocs.map((p) => (
          <Part key={p.id} title={p.name} together>
            <Facts of={pocFacts(site, p, t)} />
          </Part>
        ))}
      </Part>
      <Part title={t("call")} together>
        <Facts lines of={CALL.map((role) => [t(role), ""] as const)} />
      </Part>
    </>
  );
}

function pocFacts(site: SiteFile, poc: SiteFile["pocs"][number], t: Props["t"]): (readonly [string, string])[] {
  const has = (kind: string): boolean => poc.devices.some((d) => d.kind === kind);
  const from = site.sources.filter((s) => poc.sourceIds.includes(s.id)).map((s) => `${s.name} (${t(s.kind)})`);
  const masters = poc.devices.flatMap((d) => {
    if (d.kind !== "masterValve") return [];
    const by = site.controllers.find((c) => c.id === d.controllerId)?.name ?? d.controllerId;
    const words = t("masterValve", { name: d.name ?? t("master"), normally: d.normally });
    return by ? `${words}; ${t("switchedBy", { name: by })}` : words;
  });
  return [
    [t("where"), place(poc) || t("whereUnknown")],
    [t("from"), from.join(", ")],
    [t("byHand"), has("backflow") ? t("backflowValve") : t("meterValve")],
    [t("master"), masters.join(". ")],
    [t("pump"), has("pump") ? t("pumpFirst") : ""],
  ];
}
