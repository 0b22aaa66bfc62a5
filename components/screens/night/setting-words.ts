import type { SettingChange } from "@/core/optimize/settings-changes";
import type { SiteFile } from "@/core/site-file/schema";

const NAMED = 3;

/** One setting to change at a controller, in words. */
export function settingWords(site: SiteFile, c: SettingChange): string {
  const program = (id: string): string => site.programs.find((p) => p.id === id)?.name ?? id;
  switch (c.kind) {
    case "order":
      return `${program(c.programId)}: new order, ${c.moved} stations in other places`;
    case "priority":
      return `${program(c.programId)}: priority ${c.from} → ${c.to}`;
    case "atOnce":
      return `${program(c.programId)}: stations at once ${c.from} → ${c.to}`;
    case "starts":
      return `${program(c.programId)}: starts ${c.from.join(", ")} → ${c.to.join(", ")}`;
    case "moves": {
      const named = c.stations
        .slice(0, NAMED)
        .map((s) => `${site.stations.find((x) => x.id === s.stationId)?.number} into ${program(s.toProgramId)}`);
      return `${c.stations.length} station${c.stations.length > 1 ? "s" : ""} into another program of equal days: ${named.join(", ")}${c.stations.length > NAMED ? " and so on" : ""}`;
    }
  }
}
