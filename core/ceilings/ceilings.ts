import { flowAtVelocityLpm } from "../pipes/flow-in-pipe.ts";
import { tableInsideDiameterMm } from "../pipes/pipe-table.ts";
import { sensorRange } from "../sensors/sensor-range.ts";
import type { Device, Mainline, Pipe, Poc, SiteFile, Source } from "../site-file/schema.ts";

export type CeilingRule =
  | "yield"
  | "pipeVelocity"
  | "meterContinuous"
  | "meterSafe"
  | "meterLoss"
  | "backflowMax"
  | "masterValveMax"
  | "pumpBestEfficiency"
  | "pumpCurveEnd"
  | "sensorMax"
  | "entered";
export type RuleFigure = { rule: CeilingRule; deviceId?: string; lpm: number };
export type ElementCeiling = {
  id: string;
  kind: "source" | "poc" | "mainline";
  /** L/min; null when no rule applies and nothing limits. */
  ceilingLpm: number | null;
  boundBy: { rule: CeilingRule; deviceId?: string } | null;
  rules: RuleFigure[];
};

/** Velocity limit of a pipe unless another is stated with its reason, m/s (handbook#5-ceilings). */
export const USUAL_MAX_VELOCITY_MS = 1.5;
export const HARD_MAX_VELOCITY_MS = 2.1;
/** Comparisons of flows allow this, L/min. */
export const FLOW_TOLERANCE_LPM = 1e-6;

/** A pipe's true bore in mm: measured, else from the table, else null. */
export function insideDiameterMm(pipe: Pipe): number | null {
  return pipe.insideDiameterMm ?? tableInsideDiameterMm(pipe.material, pipe.series, pipe.nominal);
}

/** Every rule that one device puts on flow, in L/min (handbook#5-ceilings). `staticKpa`: lowest stated pressure of the sources above. */
export function deviceRules(device: Device, staticKpa: number | null): RuleFigure[] {
  const deviceId = device.id;
  const rules: RuleFigure[] = [];
  const add = (rule: CeilingRule, lpm: number | null | undefined): void => {
    if (lpm !== null && lpm !== undefined) rules.push({ rule, deviceId, lpm });
  };
  switch (device.kind) {
    case "meter":
      add("meterContinuous", device.continuousMaxLpm);
      add("meterSafe", device.safeMaxLpm === undefined ? null : 0.75 * device.safeMaxLpm);
      if (device.lossKpaAt && device.lossKpaAt.lossKpa > 0 && staticKpa !== null)
        add("meterLoss", device.lossKpaAt.flowLpm * Math.sqrt((0.1 * staticKpa) / device.lossKpaAt.lossKpa));
      break;
    case "backflow":
      add("backflowMax", device.maxLpm);
      break;
    case "masterValve":
      add("masterValveMax", device.maxLpm);
      break;
    case "pump":
      if (device.bestEfficiencyLpm !== undefined)
        add("pumpBestEfficiency", 1.15 * device.bestEfficiencyLpm * (device.parallel ?? 1));
      else add("pumpCurveEnd", Math.max(...device.curve.map((p) => p.flowLpm)) * (device.parallel ?? 1));
      break;
    case "pipe": {
      const bore = insideDiameterMm(device);
      if (bore !== null) add("pipeVelocity", flowAtVelocityLpm(device.maxVelocityMs ?? USUAL_MAX_VELOCITY_MS, bore));
      break;
    }
    case "flowSensor":
      add("sensorMax", sensorRange(device).maxLpm);
      break;
    case "fixedLoss":
    case "regulator":
    case "pressureSensor":
      break;
  }
  return rules;
}

/** The ceilings of every source, POC and mainline: each element's own, not reduced by what feeds it. */
export function ceilings(site: SiteFile): ElementCeiling[] {
  return [
    ...site.sources.map(sourceCeiling),
    ...site.pocs.map((poc) => pocCeiling(site, poc)),
    ...site.mainlines.map(mainlineCeiling),
  ];
}

function sourceCeiling(source: Source): ElementCeiling {
  return bind(source.id, "source", source.yieldLpm === undefined ? [] : [{ rule: "yield", lpm: source.yieldLpm }]);
}

/** Lowest stated static pressure among a POC's enabled sources, kPa. */
export function staticPressureKpa(site: SiteFile, poc: Poc): number | null {
  const stated = site.sources
    .filter((s) => poc.sourceIds.includes(s.id) && s.enabled !== false)
    .flatMap((s) => (s.staticPressureKpa === undefined ? [] : [s.staticPressureKpa]));
  return stated.length === 0 ? null : Math.min(...stated);
}

function pocCeiling(site: SiteFile, poc: Poc): ElementCeiling {
  const staticKpa = staticPressureKpa(site, poc);
  return bind(
    poc.id,
    "poc",
    poc.devices.flatMap((d) => deviceRules(d, staticKpa)),
    poc,
  );
}

function mainlineCeiling(mainline: Mainline): ElementCeiling {
  const devices: Device[] = [...(mainline.devices ?? []), ...mainline.pipes];
  return bind(
    mainline.id,
    "mainline",
    devices.flatMap((d) => deviceRules(d, null)),
    mainline,
  );
}

export type EnteredCeiling = Pick<Poc, "ceilingLpm" | "ceilingReason">;

function bind(
  id: string,
  kind: ElementCeiling["kind"],
  computed: RuleFigure[],
  entered?: EnteredCeiling,
): ElementCeiling {
  const rules = [...computed];
  let smallest = smallestOf(computed);
  if (entered?.ceilingLpm !== undefined && !enteredWithoutReason(entered, smallest?.lpm ?? null)) {
    const figure: RuleFigure = { rule: "entered", lpm: entered.ceilingLpm };
    rules.push(figure);
    const ties = smallest !== null && Math.abs(smallest.lpm - figure.lpm) <= FLOW_TOLERANCE_LPM;
    if (!ties) smallest = figure;
  }
  if (!smallest) return { id, kind, ceilingLpm: null, boundBy: null, rules };
  const boundBy =
    smallest.deviceId === undefined ? { rule: smallest.rule } : { rule: smallest.rule, deviceId: smallest.deviceId };
  return { id, kind, ceilingLpm: smallest.lpm, boundBy, rules };
}

/** A ceiling by hand above the computed one needs a reason; without one it is not taken. */
export function enteredWithoutReason(entered: EnteredCeiling, computedLpm: number | null): boolean {
  if (entered.ceilingLpm === undefined || computedLpm === null) return false;
  return entered.ceilingLpm > computedLpm + FLOW_TOLERANCE_LPM && !entered.ceilingReason?.trim();
}

function smallestOf(rules: RuleFigure[]): RuleFigure | null {
  let best: RuleFigure | null = null;
  for (const rule of rules) if (best === null || rule.lpm < best.lpm) best = rule;
  return best;
}
