import type { z } from "zod";
import { type Patch, patched } from "./patch.ts";
import {
  type Controller,
  controllerSchema,
  type Program,
  programSchema,
  type SiteFile,
  type Station,
} from "./schema.ts";

/** What may be copied from one station to others, in parts: each with the fields that it is. */
export const STATION_PARTS = [
  { id: "planting", label: "planting and outlets", keys: ["planting", "emitter", "emitters"] },
  { id: "design", label: "design flow and the pressure it needs", keys: ["designFlowLpm", "requiredKpa"] },
  { id: "cycles", label: "cycles and soak", keys: ["cycle", "soakMin"] },
  {
    id: "limits",
    label: "limits of its own, hold-off, watched or not",
    keys: ["highPercent", "lowPercent", "holdOffS", "monitored"],
  },
  { id: "opens", label: "master valve and pump", keys: ["usesMasterValve", "usesPump"] },
  { id: "weather", label: "weather inputs it ignores", keys: ["ignoresInputs"] },
  { id: "coil", label: "coil and its current", keys: ["coil", "solenoidMa"] },
] as const satisfies readonly { id: string; label: string; keys: readonly (keyof Station)[] }[];
export type StationPart = (typeof STATION_PARTS)[number]["id"];

/** What a station has of the chosen parts; what it has not goes from those that get it. */
function partsOf(from: Station, parts: ReadonlySet<StationPart>): Patch<Station> {
  const keys = STATION_PARTS.filter((p) => parts.has(p.id)).flatMap((p): readonly (keyof Station)[] => p.keys);
  return Object.fromEntries(keys.map((k) => [k, structuredClone(from[k])]));
}

/** Settings of one station, in the chosen parts, given to others. Its name, number, wiring and learned figures are its own (handbook#15-days). */
export function copyStation(
  site: SiteFile,
  fromId: string,
  toIds: ReadonlySet<string>,
  parts: ReadonlySet<StationPart>,
): SiteFile {
  const from = site.stations.find((s) => s.id === fromId);
  if (!from) return site;
  const values = partsOf(from, parts);
  return {
    ...site,
    stations: site.stations.map((s) => (toIds.has(s.id) && s.id !== fromId ? patched(s, structuredClone(values)) : s)),
  };
}

/** Settings of a controller that others may have, too: not its name, its wires, whether it is off, or what it is to the others. */
export const controllerSettings = controllerSchema
  .pick({
    maxStations: true,
    maxStationsAtOnce: true,
    maxPrograms: true,
    maxStartsPerProgram: true,
    powered: true,
    budgetMa: true,
    profileId: true,
  })
  .strip();
export type ControllerSettings = z.infer<typeof controllerSettings>;

/** Settings of a controller given to others; what it has not set goes from theirs. @param toIds null: every controller of the site */
export function copyController(
  site: SiteFile,
  settings: ControllerSettings,
  toIds: ReadonlySet<string> | null,
): SiteFile {
  const values = Object.fromEntries(
    Object.keys(controllerSettings.shape).map((key) => [key, settings[key as keyof ControllerSettings]]),
  ) as Patch<Controller>;
  return {
    ...site,
    controllers: site.controllers.map((c) => (toIds === null || toIds.has(c.id) ? patched(c, values) : c)),
  };
}

/** A program without what is of its own site: stations, controller, weather inputs, files, hold. */
export const programPattern = programSchema
  .omit({ id: true, controllerId: true, runs: true, onInputs: true, files: true, holdUntil: true })
  .strip();
export type ProgramPattern = z.infer<typeof programPattern>;

export const patternOfProgram = (program: Program): ProgramPattern => programPattern.parse(program);

/**
 * A program put on a site, known by its name: one that is there gets its days, starts and settings and keeps its stations and minutes; else it begins on the first controller,
 * without stations. A site without a controller is left as it is.
 *
 * @param freshId an id that the site has not yet
 */
export function putProgram(site: SiteFile, pattern: ProgramPattern, freshId: () => string): SiteFile {
  const named = (p: Program): boolean => p.name.trim().toLowerCase() === pattern.name.trim().toLowerCase();
  if (site.programs.some(named))
    return {
      ...site,
      programs: site.programs.map((p) => {
        if (!named(p)) return p;
        const { id, controllerId, runs, onInputs, files, holdUntil } = p;
        const own = { id, name: p.name, controllerId, onInputs, files, holdUntil, runs };
        return patched({ ...structuredClone(pattern), ...own } as Program, {});
      }),
    };
  const [controller] = site.controllers;
  if (!controller) return site;
  const made: Program = { id: freshId(), controllerId: controller.id, ...structuredClone(pattern), runs: [] };
  return { ...site, programs: [...site.programs, made] };
}
