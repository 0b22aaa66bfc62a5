import { patched } from "../site-file/patch.ts";
import type { Mainline, Poc, Program, SiteFile, Station } from "../site-file/schema.ts";
import type { ControllerSettings } from "./settings-of.ts";

/**
 * A site as it stands in the ground, run by what its controllers hold: the site each of them would water by. What several controllers share (points of connection,
 * mainlines, limits) is as the first of them holds it. Nothing is locked out but `lockouts`.
 */
export function withSettings(
  ground: SiteFile,
  held: readonly ControllerSettings[],
  lockouts: readonly string[] = [],
): SiteFile {
  const first = held[0];
  if (!first) return ground;
  const stations = indexedById(held.flatMap((h) => h.stations));
  const pocs = firstById(held.flatMap((h) => h.pocs));
  const mains = firstById(held.flatMap((h) => h.mainlines));
  const controllers = indexedById(held.flatMap((h) => h.controllers));
  const { seasonalPercent: _, holdUntil: __, ...site } = ground.site;
  const locked = <T extends { id: string; lockedOut?: boolean | undefined }>(of: T): T => {
    const { lockedOut: _was, ...rest } = of;
    return (lockouts.includes(of.id) ? { ...rest, lockedOut: true } : rest) as T;
  };
  const { setRatios: ___, ...rest } = ground;
  const ratios = held.flatMap((h) => h.setRatios ?? []);
  return {
    ...rest,
    ...(ratios.length > 0 ? { setRatios: ratios } : {}),
    site: patched(site as SiteFile["site"], {
      maxStationsAtOnce: first.site.maxStationsAtOnce,
      weatherPercents: first.site.weatherPercents,
      weatherPercentBypassed: first.site.weatherPercentBypassed,
    }),
    policy: first.policy,
    pocs: ground.pocs.map((p) => locked(pocWith(p, pocs.get(p.id)))),
    mainlines: ground.mainlines.map((m) => locked(mainWith(m, mains.get(m.id)))),
    controllers: ground.controllers.map((c) => ({ ...c, ...controllers.get(c.id) })),
    stations: ground.stations.map((s) => locked(stationWith(s, stations.get(s.id)))),
    programs: held.flatMap((h) => h.programs.map((p) => programWith(h, p, ground))),
  };
}

const indexedById = <T extends { id: string }>(of: readonly T[]): Map<string, T> => new Map(of.map((x) => [x.id, x]));
const firstById = <T extends { id: string }>(of: readonly T[]): Map<string, T> => indexedById([...of].reverse());

/** In the ground stay the pipes and what stands in them; the sensor's constant, limits and ceiling are what the controller holds. */
function pocWith(ground: Poc, held: Poc | undefined): Poc {
  if (!held) return ground;
  return patched<Poc>(ground, {
    policy: held.policy,
    enabled: held.enabled,
    ceilingLpm: held.ceilingLpm,
    ceilingReason: held.ceilingLpm === undefined ? undefined : "as the controller holds it",
    burstLimitLpm: held.burstLimitLpm,
    burstPersistenceS: held.burstPersistenceS,
    burstResponse: held.burstResponse,
    offScheduleLimitLpm: held.offScheduleLimitLpm,
    offSchedulePersistenceS: held.offSchedulePersistenceS,
    offScheduleResponse: held.offScheduleResponse,
    handWatering: held.handWatering,
  });
}

function mainWith(ground: Mainline, held: Mainline | undefined): Mainline {
  if (!held) return ground;
  return patched<Mainline>(ground, {
    policy: held.policy,
    enabled: held.enabled,
    ceilingLpm: held.ceilingLpm,
    ceilingReason: held.ceilingLpm === undefined ? undefined : "as the controller holds it",
    fillS: held.fillS,
    holdOffS: held.holdOffS,
  });
}

function stationWith(ground: Station, held: Station | undefined): Station {
  if (!held) return ground;
  const { learned: _, ...station } = ground;
  return patched<Station>(station, {
    name: held.name,
    designFlowLpm: undefined,
    enteredFlowLpm: held.enteredFlowLpm,
    expectedFrom: held.enteredFlowLpm === undefined ? undefined : "entered",
    holdOffS: held.holdOffS,
    cycle: held.cycle,
    soakMin: held.soakMin,
    monitored: held.monitored,
    usesMasterValve: held.usesMasterValve,
    usesPump: held.usesPump,
    ignoresInputs: held.ignoresInputs,
    highPercent: held.highPercent,
    lowPercent: held.lowPercent,
  });
}

/** A controller's own percentage and hold for the whole site are on each of its programs here. Stations that are no longer in the ground are not run. */
function programWith(held: ControllerSettings, program: Program, ground: SiteFile): Program {
  const percent = held.site.seasonalPercent;
  return patched<Program>(program, {
    runs: program.runs.filter((r) => ground.stations.some((s) => s.id === r.stationId)),
    seasonalPercent:
      percent === undefined ? program.seasonalPercent : ((program.seasonalPercent ?? 100) * percent) / 100,
    holdUntil: later(held.site.holdUntil, program.holdUntil),
  });
}

type Hold = Program["holdUntil"];
function later(a: Hold, b: Hold): Hold {
  if (a === undefined || b === undefined) return a ?? b;
  if (a === "indefinite" || b === "indefinite") return "indefinite";
  return a > b ? a : b;
}
