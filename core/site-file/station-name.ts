import type { SiteFile } from "./schema.ts";

/** How a station is called in a sentence, as "12 Lower lawn"; its id where the site has none of it. */
export function stationName({ stations }: Pick<SiteFile, "stations">, id: string): string {
  const station = stations.find((s) => s.id === id);
  return station ? `${station.number} ${station.name}` : id;
}
