import { codeWords } from "./code-words.ts";
import type { Device, SiteFile } from "./schema.ts";
import { stationName } from "./station-name.ts";

/** What stands somewhere on a site. */
export type Piece = {
  id: string;
  kind: "source" | "poc" | "mainline" | "controller" | "device" | "station";
  name: string;
};

const device = (d: Device, owner: string): Piece => ({
  id: d.id,
  kind: "device",
  name: d.name || `${codeWords(d.kind)} of ${owner}`,
});

/** Every piece of a site that can be pointed at, in the order of the water; what has no name is called by its kind. */
export function piecesOf(site: SiteFile): Piece[] {
  const named = (kind: Piece["kind"], list: readonly { id: string; name: string }[]): Piece[] =>
    list.map(({ id, name }) => ({ id, kind, name }));
  return [
    ...named("source", site.sources),
    ...named("poc", site.pocs),
    ...site.pocs.flatMap((p) => p.devices.map((d) => device(d, p.name))),
    ...site.mainlines.flatMap((m) => [...(m.devices ?? []), ...m.pipes].map((d) => device(d, m.name))),
    ...named("mainline", site.mainlines),
    ...named("controller", site.controllers),
    ...site.stations.map((s) => ({ id: s.id, kind: "station" as const, name: stationName(site, s.id) })),
  ];
}

/** The file without pins of pieces that are gone from it. */
export function withoutPinsOf(site: SiteFile, ids: ReadonlySet<string>): SiteFile {
  if (!site.plans) return site;
  return { ...site, plans: site.plans.map((p) => ({ ...p, pins: p.pins.filter((pin) => !ids.has(pin.id)) })) };
}
