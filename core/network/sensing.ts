import { nth } from "../checked.ts";
import type { Waterworks } from "./waterworks.ts";
import type { Device, FlowSensor } from "../site-file/schema.ts";

const sensorIn = (devices: Device[] | undefined): FlowSensor | null =>
  devices?.find((d): d is FlowSensor => d.kind === "flowSensor") ?? null;

/**
 * Who sees the flow of a POC: its own sensor; or, with one master valve over several sensors, those of the mainlines it feeds, read as a sum;
 * or some of them only, or nobody.
 */
export type PocSensing = { by: "own" | "mainlines" | "part" | "none"; sensors: FlowSensor[]; mainlines: number[] };

const KNOWN = new WeakMap<Waterworks, PocSensing[]>();

export function pocSensing(w: Waterworks, poc: number): PocSensing {
  let known = KNOWN.get(w);
  if (!known) {
    known = w.site.pocs.map((_, p) => sensingOf(w, p));
    KNOWN.set(w, known);
  }
  return nth(known, poc);
}

function sensingOf(w: Waterworks, poc: number): PocSensing {
  const own = sensorIn(w.site.pocs[poc]?.devices);
  if (own) return { by: "own", sensors: [own], mainlines: [] };
  const fed = w.site.mainlines.flatMap((_, m) => ((w.feedPocs[m] ?? []).includes(poc) ? [m] : []));
  const seen = fed.filter(
    (m) =>
      sensorIn(w.site.mainlines[m]?.devices) !== null &&
      w.feedPocs[m]?.length === 1 &&
      w.feedMainlines[m]?.length === 0,
  );
  const sensors = seen.map((m) => sensorIn(w.site.mainlines[m]?.devices) as FlowSensor);
  if (seen.length === 0) return { by: "none", sensors: [], mainlines: [] };
  return { by: seen.length === fed.length ? "mainlines" : "part", sensors, mainlines: seen };
}

/** All flow sensors of the site with the element that carries them. */
export function siteSensors(
  w: Waterworks,
): { sensor: FlowSensor; ownerId: string; ownerName: string; kind: "poc" | "mainline" }[] {
  const of = (kind: "poc" | "mainline", list: { id: string; name: string; devices?: Device[] | undefined }[]) =>
    list.flatMap((e) =>
      (e.devices ?? [])
        .filter((d): d is FlowSensor => d.kind === "flowSensor")
        .map((sensor) => ({ sensor, ownerId: e.id, ownerName: e.name, kind })),
    );
  return [...of("poc", w.site.pocs), ...of("mainline", w.site.mainlines)];
}
