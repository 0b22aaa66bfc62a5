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
