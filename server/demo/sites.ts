import { parseSiteOrThrow } from "../../core/site-file/parse-site.ts";
import type { SiteFile } from "../../core/site-file/schema.ts";
import { campus } from "./campus.ts";
import { clinicGarden } from "./clinic-garden.ts";
import { courtyard } from "./courtyard.ts";
import { reclaimedMeadow } from "./reclaimed-meadow.ts";
import { sportsGround } from "./sports-ground.ts";
import { wellEstate } from "./well-estate.ts";
import { lakesidePark } from "./lakeside-park.ts";

/** Seven made-up sites in the made-up county of Tarrow, of different size and trouble. Nothing here is a real place. */
export function demoSites(): SiteFile[] {
  return [clinicGarden(), sportsGround(), wellEstate(), reclaimedMeadow(), campus(), courtyard(), lakesidePark()].map(
    (s) =>
      parseSiteOrThrow({
        ...s,
        site: { ...s.site, ...DEMO_PLACES[s.site.id], currency: "USD" },
        sources: s.sources.map((source) => ({ ...source, ...DEMO_PRICES[source.kind] })),
      }),
  );
}

/** What the made-up county takes for its water; what is pumped on the site has no price. */
const DEMO_PRICES: Partial<Record<string, Pick<SiteFile["sources"][number], "price">>> = {
  municipal: { price: { perM3: 1.3, steps: [{ overM3: 400, perM3: 1.9 }] } },
  reclaimed: { price: { perM3: 0.6 } },
};

/** Where they are: in a desert, where there is no such county. */
const DEMO_PLACES: Record<string, { latitudeDeg: number; longitudeDeg: number }> = {
  "larkspur-clinic": { latitudeDeg: 40.912, longitudeDeg: -118.631 },
  "marrow-field": { latitudeDeg: 40.871, longitudeDeg: -118.522 },
  "hollin-bank": { latitudeDeg: 40.858, longitudeDeg: -118.541 },
  "tidewell-meadow": { latitudeDeg: 40.978, longitudeDeg: -118.574 },
  "quarrel-hill": { latitudeDeg: 40.924, longitudeDeg: -118.648 },
  "sallow-court": { latitudeDeg: 40.969, longitudeDeg: -118.602 },
  "lakeside-park": { latitudeDeg: 40.905, longitudeDeg: -118.66 },
};

/** Whose the demo sites are, where, and who looks after them. */
export const DEMO_GROUPS: Record<string, { client: string; area: string; crew: string }> = {
  "larkspur-clinic": { client: "Larkspur Health", area: "Tarrow town", crew: "North crew" },
  "marrow-field": { client: "Tarrow County", area: "Marrow", crew: "North crew" },
  "hollin-bank": { client: "Hollin Homes", area: "Marrow", crew: "South crew" },
  "tidewell-meadow": { client: "Tarrow County", area: "Tidewell", crew: "South crew" },
  "quarrel-hill": { client: "Quarrel Hill College", area: "Tarrow town", crew: "North crew" },
  "sallow-court": { client: "Hollin Homes", area: "Tidewell", crew: "South crew" },
  "lakeside-park": { client: "Tarrow County", area: "Tarrow town", crew: "North crew" },
};
