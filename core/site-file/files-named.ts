import type { SiteFile } from "./schema.ts";

type Named = { files?: { id: string }[] | undefined };

/** Ids of all files that a site file names: of the site, of its pieces and its plans. */
export function filesNamed(site: SiteFile): string[] {
  const of = ({ files }: Named): string[] => (files ?? []).map((f) => f.id);
  const pieces: Named[] = [
    ...[site, site.site],
    ...[site.sources, site.pocs, site.mainlines, site.controllers, site.stations, site.programs].flat(),
  ];
  return [...pieces.flatMap(of), ...(site.plans ?? []).map((p) => p.id)];
}
