import { expectedFlow } from "../../site-file/expected-flow.ts";
import type { SiteFile, Station } from "../../site-file/schema.ts";
import type { FaultSpec } from "./spec.ts";

/** Litres a minute from one broken outlet, by emitter (handbook#8-limits). */
export const BROKEN_OUTLET_LPM: Record<NonNullable<Station["emitter"]>, number> = {
  spray: 15,
  rotor: 45,
  drip: 8,
  bubbler: 12,
  other: 15,
};
export const BROKEN_LATERAL_SHARE = 0.6;

const stationOf = (site: SiteFile, id: string): Station | undefined => site.stations.find((s) => s.id === id);
const AT_STATION = {
  subjects: ["station"],
  size: null,
  blame: "station",
  onlyWhenCalled: true,
} satisfies Partial<FaultSpec>;
const LEAK = { label: "Size", quantity: "flow", unit: "", max: 10_000 } as const;

export const brokenOutlet: FaultSpec = {
  ...AT_STATION,
  words: "broken outlet",
  size: { ...LEAK, usual: (site, id) => BROKEN_OUTLET_LPM[stationOf(site, id)?.emitter ?? "other"] },
  effect: { leaks: true },
  swept: "station",
  drilled: "station",
};

export const brokenLateral: FaultSpec = {
  ...AT_STATION,
  words: "broken lateral",
  size: {
    ...LEAK,
    usual: (site, id) => {
      const station = stationOf(site, id);
      return BROKEN_LATERAL_SHARE * (station ? (expectedFlow(station)?.lpm ?? 0) : 0);
    },
  },
  effect: { leaks: true },
  swept: "station",
  drilled: "station",
};

export const stuckOpen: FaultSpec = {
  ...AT_STATION,
  words: "station stuck open",
  effect: { staysOpen: true },
  blame: "main",
  onlyWhenCalled: false,
  swept: "station",
  drilled: "station",
};

export const stuckClosed: FaultSpec = {
  ...AT_STATION,
  words: "station does not open",
  effect: { staysShut: true },
  swept: "station",
  drilled: "station",
};

export const clogged: FaultSpec = {
  ...AT_STATION,
  words: "station clogged",
  size: { label: "Share lost", quantity: null, unit: "0 to 1", max: 1, usual: () => 0.4 },
  effect: { throttles: true },
  swept: "station",
  drilled: "station",
};

export const wrongValve: FaultSpec = {
  ...AT_STATION,
  words: "wired to another's valve",
  effect: { opensOther: "instead" },
  swept: null,
  drilled: null,
};

export const alsoOpens: FaultSpec = {
  ...AT_STATION,
  words: "opens another's valve too",
  effect: { opensOther: "also" },
  swept: null,
  drilled: null,
};
