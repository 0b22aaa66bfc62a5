import { nth } from "../checked.ts";
import { expectedFlow } from "./expected-flow.ts";
import type { Device, DeviceCheck, Proving, SiteFile, WireReading } from "./schema.ts";

/**
 * Records in a file (checks, provings, wire readings) say who and when. Whatever `after` holds that `before` did not hold, word for word, is
 * new: it gets this person and this instant, whatever it claims. Old records stay as they are.
 */
export function stampRecords(before: SiteFile, after: SiteFile, by: string, at: string): SiteFile {
  const known = new Set<string>();
  const key = (owner: string, record: object): string =>
    `${owner} ${JSON.stringify(Object.entries(record).sort(([a], [b]) => (a < b ? -1 : 1)))}`;
  for (const d of devicesOf(before)) for (const r of recordsOf(d)) known.add(key(d.id, r));
  for (const r of before.wireReadings ?? []) known.add(key(r.subjectId, r));
  const stamped = <T extends DeviceCheck | Proving | WireReading>(owner: string, list: T[]): T[] =>
    list.map((r) => (known.has(key(owner, r)) ? r : { ...r, by, at }));
  const device = <T extends Device>(d: T): T => ({
    ...d,
    ...(d.checks ? { checks: stamped(d.id, d.checks) } : {}),
    ...(d.kind === "flowSensor" && d.provings ? { provings: stamped(d.id, d.provings) } : {}),
  });
  return {
    ...after,
    pocs: after.pocs.map((p) => ({ ...p, devices: p.devices.map(device) })),
    mainlines: after.mainlines.map((m) => ({
      ...m,
      pipes: m.pipes.map(device),
      ...(m.devices ? { devices: m.devices.map(device) } : {}),
    })),
    ...(after.wireReadings ? { wireReadings: after.wireReadings.map((r) => nth(stamped(r.subjectId, [r]), 0)) } : {}),
  };
}

/** Every device of a site, POCs first, in flow order. */
export function devicesOf(site: SiteFile): Device[] {
  return [...site.pocs.flatMap((p) => p.devices), ...site.mainlines.flatMap((m) => [...(m.devices ?? []), ...m.pipes])];
}

function recordsOf(d: Device): object[] {
  return [...(d.checks ?? []), ...(d.kind === "flowSensor" ? (d.provings ?? []) : [])];
}

/** Since when each station uses the figure it uses: this instant where figure or choice changed, whatever `after` claims. */
export function stampSince(before: SiteFile, after: SiteFile, at: string): SiteFile {
  const known = new Map(before.stations.map((s) => [s.id, s]));
  return {
    ...after,
    stations: after.stations.map((s) => {
      const old = known.get(s.id);
      const now = expectedFlow(s);
      const was = old && expectedFlow(old);
      const { expectedSince: _, ...rest } = s;
      const since = now && (now.lpm !== was?.lpm || now.from !== was.from) ? at : old?.expectedSince;
      return since === undefined || !now ? rest : { ...rest, expectedSince: since };
    }),
  };
}
