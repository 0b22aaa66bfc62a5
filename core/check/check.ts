import { waterworks } from "../network/waterworks.ts";
import type { SiteFile } from "../site-file/schema.ts";
import { checkControllers } from "./controllers.ts";
import type { Finding } from "./finding.ts";
import { checkLimits } from "./limits.ts";
import { checkPrograms } from "./programs.ts";
import { checkSensors } from "./sensors.ts";
import { checkStations } from "./stations.ts";
import { checkSupply } from "./supply.ts";
import { checkWaterworks } from "./waterworks.ts";

/**
 * Everything about a site that is wrong, doubtful or worth knowing, in the order of the work. Pure: needs no date. What only the network
 * solver can tell is in `pressureFindings`.
 */
export function check(site: SiteFile): Finding[] {
  const w = waterworks(site);
  return [
    ...checkWaterworks(w),
    ...checkSupply(w),
    ...checkControllers(w),
    ...checkSensors(w),
    ...checkStations(w),
    ...checkPrograms(w),
    ...checkLimits(w),
  ];
}
