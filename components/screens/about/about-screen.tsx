"use client";
import { ExternalLink } from "lucide-react";
import { useWorkspace } from "@/components/draft/site-draft";
import { WordsFields } from "@/components/draft/words-fields";
import { ScreenBar } from "@/components/frame/screen-bar";
import { NumberField, TextField } from "@/components/kit/fields";
import { Section } from "@/components/kit/section";
import type { SiteFile } from "@/core/site-file/schema";
import { EndOfSite } from "./end-of-site";
import { ZoneChange } from "./zone-change";

type About = SiteFile["site"];

/** What a site is called, where it lies, by which clock it lives, what to know of it; and its end. */
export function AboutScreen() {
  const { siteId, draft, edit, canEdit, isManager } = useWorkspace("siteId", "draft", "edit", "canEdit", "isManager");
  const { site } = draft;
  const put = (values: Partial<Record<keyof About, unknown>>): void =>
    edit((file) => {
      const next = { ...file.site, ...values } as Record<string, unknown>;
      for (const [key, value] of Object.entries(next)) if (value === undefined) delete next[key];
      return { ...file, site: next as About };
    });
  return (
    <>
      <ScreenBar title="About this site" />
      <div className="max-w-4xl pb-6">
        <Section id="name" title="Name and notes">
          <div className="grid max-w-2xl gap-2">
            <TextField
              label="Name of the site"
              value={site.name}
              disabled={!canEdit}
              onCommit={(name) => put({ name: name.trim() || site.name })}
            />
            <WordsFields of={site} put={put} />
          </div>
        </Section>
        <Section id="clock" title="Clock">
          <ZoneChange onZone={(timeZone) => put({ timeZone })} />
        </Section>
        <Section id="position" title="Position">
          <Position site={site} canEdit={canEdit} onCommit={put} />
        </Section>
        {isManager && (
          <Section id="end" title="No longer worked on">
            <EndOfSite siteId={siteId} name={site.name} />
          </Section>
        )}
      </div>
    </>
  );
}

function Position({
  site,
  canEdit,
  onCommit,
}: {
  site: About;
  canEdit: boolean;
  onCommit: (values: { latitudeDeg?: number | undefined; longitudeDeg?: number | undefined }) => void;
}) {
  const { latitudeDeg: lat, longitudeDeg: lon } = site;
  return (
    <>
      <div className="flex flex-wrap items-end gap-3">
        <NumberField
          label="Latitude"
          unit="° north"
          className="w-40"
          min={-90}
          max={90}
          value={lat}
          disabled={!canEdit}
          onCommit={(latitudeDeg) => onCommit({ latitudeDeg })}
        />
        <NumberField
          label="Longitude"
          unit="° east"
          className="w-40"
          min={-180}
          max={180}
          value={lon}
          disabled={!canEdit}
          onCommit={(longitudeDeg) => onCommit({ longitudeDeg })}
        />
        {lat !== undefined && lon !== undefined && (
          <a className="link inline-flex items-center gap-1 pb-1" href={`geo:${lat},${lon}`}>
            <ExternalLink className="size-4" aria-hidden />
            Open in your own map
          </a>
        )}
      </div>
      <p className="mt-1 text-faint">South and west are below 0. Rounds shows the sites by it.</p>
    </>
  );
}
