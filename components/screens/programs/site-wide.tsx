"use client";
import { Figure } from "@/components/draft/figure";
import { useWorkspace } from "@/components/draft/site-draft";
import { DateField } from "@/components/kit/date-field";
import { TickField } from "@/components/kit/fields";
import { clean, type Patch } from "@/core/site-file/patch";
import type { SiteFile } from "@/core/site-file/schema";
import { WeatherInputs } from "./weather-inputs";

/** What holds for every program of the site: percent, number at once, holds, weather. */
export function SiteWide() {
  const { draft, edit, canEdit } = useWorkspace("draft", "edit", "canEdit");
  const site = draft.site;
  const put = (values: Patch<SiteFile["site"]>): void =>
    edit((f) => ({ ...f, site: clean<SiteFile["site"]>({ ...f.site, ...values }) }));
  return (
    <section aria-label="Whole site" className="max-w-5xl">
      <p className="mb-2">
        Whole site: {site.seasonalPercent ?? 100} % seasonal,{" "}
        {site.maxStationsAtOnce ? `${site.maxStationsAtOnce} at once` : "no number at once"}
        {site.holdUntil
          ? `, ${site.holdUntil === "indefinite" ? "OFF, no end set" : `off until ${site.holdUntil}`}`
          : ""}
        {draft.weatherInputs?.length
          ? `, ${draft.weatherInputs.length} weather input${draft.weatherInputs.length === 1 ? "" : "s"}`
          : ""}
        {draft.weatherInputs?.some((w) => w.bypassed) ? ", one bypassed" : ""}
      </p>
      <div className="flex flex-wrap gap-3 mt-2 items-end">
        <div className="w-40">
          <Figure
            of={site}
            at="seasonalPercent"
            put={put}
            usual={100}
            label="Seasonal percent"
            unit="%"
            min={0}
            max={1000}
          />
        </div>
        <div className="w-40">
          <Figure of={site} at="maxStationsAtOnce" put={put} label="Stations at once" min={1} max={10_000} whole />
        </div>
        <DateField
          label="Off until (waters again that day)"
          value={site.holdUntil && site.holdUntil !== "indefinite" ? site.holdUntil : undefined}
          disabled={!canEdit}
          className="w-44"
          onCommit={(v) => put({ holdUntil: v })}
        />
        <TickField
          label="Off, with no end"
          checked={site.holdUntil === "indefinite"}
          disabled={!canEdit}
          onCommit={(v) => put({ holdUntil: v ? "indefinite" : undefined })}
        />
      </div>
      <WeatherInputs />
    </section>
  );
}
