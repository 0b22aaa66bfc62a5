import { got, nth } from "../checked.ts";
import { type PressureStudy, pressureStudy } from "../hydraulics/pressures.ts";
import type { StationPressure } from "../hydraulics/worst-pressure.ts";
import type { SiteFile } from "../site-file/schema.ts";
import { showQuantity } from "../units/units.ts";
import { type Finding, finding } from "./finding.ts";

/** Below what it requires by more than this, kPa, a valve counts as short; less is within what data sheets promise. */
const TOLERANCE_KPA = 1;

/**
 * Pressure under load, as findings (handbook#5-ceilings): each station alone, then everything up to the ceiling. Needs the network solver, so it is
 * not part of `check`.
 */
export async function pressureFindings(site: SiteFile, ready?: PressureStudy): Promise<Finding[]> {
  const study = ready ?? (await pressureStudy(site, null));
  const found: Finding[] = [];
  const place = new Map(site.stations.map((s, i) => [s.id, i]));
  const say = (s: StationPressure, code: string, when: string): void => {
    const i = got(place, s.stationId);
    const station = nth(site.stations, i);
    const shown = (kPa: number): string => showQuantity(kPa, "pressure", site.site.units);
    found.push(
      finding(
        "warning",
        code,
        `stations[${i}].requiredKpa`,
        s.stationId,
        `Station ${station.number} ${station.name}: ${when} its valve has ${s.kPa > 0 ? shown(s.kPa) : "no pressure"}; it requires ${shown(s.requiredKpa ?? 0)}.`,
      ),
    );
  };
  const short = (s: StationPressure): boolean => s.marginKpa !== null && s.marginKpa < -TOLERANCE_KPA;
  for (const s of study.alone) if (short(s)) say(s, "pressureAlone", "alone,");
  const alone = new Set(study.alone.filter(short).map((s) => s.stationId));
  const worst = study.design?.worst;
  if (study.design && worst && short(worst) && !alone.has(worst.stationId)) {
    const others = study.design.stations.filter((s) => short(s) && s.stationId !== worst.stationId).length;
    say(
      worst,
      "pressureTogether",
      `with as many running as the ceilings allow, ${others > 0 ? `and ${others} more ${others > 1 ? "are" : "is"} short too, ` : ""}`,
    );
  }
  if (study.design?.unbalanced)
    found.push(
      finding(
        "warning",
        "networkUnbalanced",
        "mainlines",
        site.site.id,
        "The network finds no balance with everything running up to the ceiling: the supply cannot deliver that much. Its pressures mean nothing there; check pump curves and supply figures.",
      ),
    );
  if (study.unknown.length > 0)
    found.push(
      finding(
        "note",
        "pressureUnknown",
        "sources",
        site.site.id,
        `For ${study.unknown.length} station${study.unknown.length === 1 ? "" : "s"} no pressure can be told, since no source above states one and no pump makes one. Dividing flow over feeds is then necessary, not sufficient.`,
      ),
    );
  return found;
}
