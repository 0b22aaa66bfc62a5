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
    (s) => parseSiteOrThrow(s),
  );
}

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
