import { PIPE_TABLE } from "../core/pipes/pipe-table.ts";
import { parseSiteOrThrow } from "../core/site-file/parse-site.ts";
import type { Device, Pipe, SiteFile } from "../core/site-file/schema.ts";
import { randomFrom } from "../core/bench/random.ts";

export type TreeShape = { mains: number; stations: number; devices?: boolean };

/** A random site whose network is a tree: one source, one POC, mainlines under one another, pipes of the table, levels that differ. */
export function randomTree(seed: number, shape: TreeShape = { mains: 5, stations: 14 }): SiteFile {
  const random = randomFrom(seed);
  const between = (lo: number, hi: number): number => Math.round((lo + (hi - lo) * random()) * 10) / 10;
  const pick = <T>(list: readonly T[]): T => list[Math.floor(random() * list.length)] as T;
  const series = pick(PIPE_TABLE);
  const sizes = series.sizes.filter((s) => s.insideMm > 40 && s.insideMm < 220);
  const pipe = (id: string): Pipe => ({
    id,
    kind: "pipe",
    material: series.material,
    series: series.series,
    nominal: pick(sizes).nominal,
    lengthM: between(15, 320),
    ...(random() < 0.3 ? { minorLossK: between(0.5, 6) } : {}),
  });
  const chain: Device[] = shape.devices
    ? [
        { id: "meter", kind: "meter", continuousMaxLpm: 900, lossKpaAt: { flowLpm: 600, lossKpa: between(10, 40) } },
        {
          id: "backflow",
          kind: "backflow",
          lossPoints: [
            { flowLpm: 0, lossKpa: 40 },
            { flowLpm: 400, lossKpa: 55 },
            { flowLpm: 1200, lossKpa: 90 },
          ],
        },
        { id: "valve", kind: "masterValve", normally: "closed", kv: between(60, 120) },
        { id: "riser", ...(({ id: _, ...rest }) => rest)(pipe("riser")) },
        { id: "filter", kind: "fixedLoss", lossKpa: between(5, 30) },
        ...(random() < 0.4 ? [{ id: "regulator", kind: "regulator" as const, setKpa: between(350, 500) }] : []),
      ]
    : [pipe("riser")];
  return parseSiteOrThrow({
    format: "presa-site",
    version: 1,
    site: { id: `tree-${seed}`, name: `Tree ${seed}`, timeZone: "Europe/Vienna", units: "metric" },
    sources: [
      {
        id: "src",
        name: "Source",
        kind: "municipal",
        staticPressureKpa: 900,
        elevationM: between(90, 110),
        ...(shape.devices ? { pressureDropKpaAt: { flowLpm: 800, dropKpa: between(20, 90) } } : {}),
      },
    ],
    pocs: [{ id: "poc", name: "Poc", sourceIds: ["src"], elevationM: 100, devices: chain }],
    mainlines: Array.from({ length: shape.mains }, (_, i) => ({
      id: `m${i}`,
      name: `Main ${i}`,
      feedIds: [i === 0 ? "poc" : `m${Math.floor(random() * i)}`],
      elevationM: between(92, 112),
      pipes: Array.from({ length: 1 + Math.floor(random() * 3) }, (_, j) => pipe(`m${i}p${j}`)),
      ...(i > 0 && random() < 0.5 ? { feedAtM: between(5, 200) } : {}),
    })),
    controllers: [{ id: "ctl", name: "Controller", powered: "mains" }],
    stations: Array.from({ length: shape.stations }, (_, i) => ({
      id: `s${i}`,
      number: i + 1,
      name: `S${i}`,
      controllerId: "ctl",
      mainlineId: `m${Math.floor(random() * shape.mains)}`,
      designFlowLpm: between(10, 70),
      elevationM: between(90, 115),
      requiredKpa: 200,
    })),
    programs: [],
    policy: {
      basis: "station",
      highPercent: 25,
      lowPercent: 30,
      persistenceS: 120,
      highResponse: "notify",
      lowResponse: "notify",
    },
  });
}
