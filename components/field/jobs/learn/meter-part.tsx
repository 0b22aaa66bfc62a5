"use client";
import { useTranslations } from "next-intl";
import { useState } from "react";
import { ChoiceField, NumberField, TickField } from "@/components/kit/fields";
import { Big, Photos, Words } from "../../parts";
import { useSiteHere } from "../../site-here";
import { useKept } from "../../use-kept";

type Typed = { at: string | null; m3: number | null; begins: boolean; note: string; photoId: string | null };
const NOTHING: Typed = { at: null, m3: null, begins: false, note: "", photoId: null };

/** What a water meter stands at, with its photograph: a line of the meter log. */
export function MeterPart() {
  const t = useTranslations("learn");
  const w = useTranslations("walk");
  const { siteId, site, conventions, mayEnter, enter } = useSiteHere();
  const draft = `learn ${siteId} meter`;
  const [typed, setTyped, read] = useKept<Typed>(draft, NOTHING);
  const [kept, setKept] = useState(false);
  const meters = site.file.pocs.flatMap((p) =>
    p.devices.flatMap((d) => (d.kind === "meter" ? [{ id: d.id, name: `${d.name ?? t("meterOf")}, ${p.name}` }] : [])),
  );
  const meter = meters.find((m) => m.id === typed.at) ?? meters[0];
  if (!meter) return <p className="py-3 text-lg">{t("noMeter")}</p>;
  if (!read) return null;
  const type = (more: Partial<Typed>): void => {
    setKept(false);
    setTyped({ ...typed, ...more });
  };
  const keep = (): void => {
    const { m3, begins, note, photoId } = typed;
    if (m3 === null) return;
    const what = { kind: "meter" as const, meterId: meter.id, m3, begins, note: note.trim(), photoId };
    void enter(what, meter.name, draft).then(() => {
      setTyped({ ...NOTHING, at: meter.id });
      setKept(true);
    });
  };
  return (
    <>
      <ChoiceField
        label={t("meterOf")}
        value={meter.id}
        options={meters.map((m) => [m.id, m.name] as const)}
        onCommit={(at) => type({ at })}
      />
      {mayEnter && (
        <>
          <NumberField
            label={t("stands")}
            className="my-2"
            quantity="bulk"
            system={conventions.system}
            value={typed.m3 ?? undefined}
            min={0}
            max={1e9}
            onCommit={(v) => type({ m3: v ?? null })}
          />
          <div className="flex min-h-12 items-center text-lg">
            <TickField label={t("begins")} checked={typed.begins} onCommit={(begins) => type({ begins })} />
          </div>
          <Words label={w("note")} value={typed.note} most={1000} onChange={(note) => type({ note })} />
          <Photos
            name={t("meterPhoto")}
            ids={typed.photoId ? [typed.photoId] : []}
            onChange={(ids) => type({ photoId: ids.at(-1) ?? null })}
          />
          <Big rank="main" className="mt-2 min-h-16 w-full" disabled={typed.m3 === null} onClick={keep}>
            {t("keepMeter")}
          </Big>
        </>
      )}
      {kept && (
        <p role="status" className="py-3 text-lg">
          {t("meterKept")}
        </p>
      )}
    </>
  );
}
