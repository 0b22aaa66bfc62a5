import { insideDiameterMm } from "../ceilings/ceilings.ts";
import { pipeC } from "../pipes/pipe-table.ts";
import type { Device, DeviceOf } from "../site-file/schema.ts";
import { KPA_PER_METRE_OF_WATER } from "../units/units.ts";
import { pumpHeadM } from "./device-loss.ts";
import type { InpLink } from "./inp-parse.ts";
import { LARGE_LPM, withoutRamp } from "./inp-write.ts";

const GRAVITY = 9.80665;
/** Loss of a throttle is stated at this flow, L/min. */
export const THROTTLE_AT_LPM = 100;

/** What the site, or the link's tag, knows of a piece. */
type Known = {
  id: string;
  name: string | undefined;
  /** What the link stood for when it was written. */
  kind: string | undefined;
  /** The site's own piece of that id, whose other figures stay. */
  old: Device | undefined;
};
type LinkOf<K extends InpLink["kind"]> = Extract<InpLink, { kind: K }>;

/** To ten significant figures: what the file's own figures carry. */
export const rounded = (x: number): number => Number(x.toPrecision(10));
const near = (a: number, b: number): boolean => Math.abs(a - b) <= 1e-6 * Math.max(a, b);

/** The piece that a link stands for. */
export function pieceOf(l: InpLink, known: Known): Device {
  switch (l.kind) {
    case "pipe":
      return pipe(l, known);
    case "pump":
      return pump(l, known);
    case "regulator":
      return { ...own(known, "regulator"), setKpa: rounded(l.setKpa) };
    case "fixedLoss":
      return isA(known, "backflow")
        ? { ...own(known, "backflow"), lossPoints: [{ flowLpm: 0, lossKpa: rounded(l.lossKpa) }] }
        : { ...own(known, "fixedLoss"), lossKpa: rounded(l.lossKpa) };
    case "lossCurve":
      return lossCurve(l, known);
    case "throttle":
      return throttle(l, known);
  }
}

function same<K extends Device["kind"]>({ old }: Known, kind: K): DeviceOf<K> | undefined {
  return old?.kind === kind ? (old as DeviceOf<K>) : undefined;
}

const isA = (known: Known, kind: Device["kind"]): boolean => known.old?.kind === kind || known.kind === kind;

/** The site's own piece where it is of that kind, else a new one. */
function own<K extends Device["kind"]>(known: Known, kind: K): DeviceOf<K> | { id: string; name?: string; kind: K } {
  return same(known, kind) ?? { id: known.id, ...(known.name ? { name: known.name } : {}), kind };
}

function pipe(l: LinkOf<"pipe">, known: Known): DeviceOf<"pipe"> {
  const before = same(known, "pipe");
  const bore = before ? insideDiameterMm(before) : null;
  const insideMm = rounded(l.insideMm);
  return {
    ...(before ?? { ...own(known, "pipe"), material: "as imported", series: "–", nominal: `${insideMm} mm` }),
    lengthM: rounded(l.lengthM),
    ...(bore !== null && near(bore, l.insideMm) ? {} : { insideDiameterMm: insideMm }),
    ...(before && near(pipeC(before), l.c) ? {} : { hazenWilliamsC: rounded(l.c) }),
    ...(l.minorK > 0 ? { minorLossK: rounded(l.minorK) } : {}),
  };
}

function pump(l: LinkOf<"pump">, known: Known): DeviceOf<"pump"> {
  const before = same(known, "pump");
  // A curve of the site's own that is the same to the solver stays as its data sheet gives it.
  if (before && l.points.every((p) => Math.abs(pumpHeadM(before, p.flowLpm) - Math.max(0, p.headM)) < 0.01))
    return before;
  const { parallel: _, ...piece } = before ?? { ...own(known, "pump"), parallel: undefined };
  return {
    ...piece,
    curve: l.points.map((p) => ({ flowLpm: rounded(p.flowLpm), headM: rounded(Math.max(0, p.headM)) })),
  };
}

/** A backflow preventer; one level at any flow, and not known as one, is a fixed loss. */
function lossCurve(l: LinkOf<"lossCurve">, known: Known): Device {
  const points = withoutRamp(l.points).map((p) => ({ flowLpm: rounded(p.flowLpm), lossKpa: rounded(p.lossKpa) }));
  const level = points[0]?.lossKpa ?? 0;
  if (!isA(known, "backflow") && points.every((p) => Math.abs(p.lossKpa - level) < 1e-6))
    return { ...own(known, "fixedLoss"), lossKpa: level };
  return { ...own(known, "backflow"), lossPoints: points.filter((p) => p.flowLpm < LARGE_LPM) };
}

/** A meter or a master valve where it is known as one, else a piece of pipe without length that loses as much. */
function throttle(l: LinkOf<"throttle">, known: Known): Device {
  const lossAt = (lpm: number): number => {
    const v = lpm / 60_000 / ((Math.PI / 4) * (l.insideMm / 1000) ** 2);
    return ((l.k * v * v) / (2 * GRAVITY)) * KPA_PER_METRE_OF_WATER;
  };
  if (isA(known, "meter")) {
    const at = same(known, "meter")?.lossKpaAt?.flowLpm ?? THROTTLE_AT_LPM;
    return { ...own(known, "meter"), lossKpaAt: { flowLpm: at, lossKpa: rounded(lossAt(at)) } };
  }
  if (isA(known, "masterValve"))
    return {
      normally: "closed",
      ...own(known, "masterValve"),
      kv: rounded(6 * Math.sqrt(1 / (lossAt(THROTTLE_AT_LPM) / 100))),
    };
  return {
    ...own({ ...known, old: undefined }, "pipe"),
    material: "valve, as imported",
    series: "–",
    nominal: `${rounded(l.insideMm)} mm`,
    lengthM: 0,
    insideDiameterMm: rounded(l.insideMm),
    minorLossK: rounded(l.k),
  };
}
