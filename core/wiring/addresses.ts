import type { Device, SiteFile } from "../site-file/schema.ts";

/** Anything that hangs on a wire: a station's valve, or a device of a POC or mainline. */
export type Wired = {
  id: string;
  label: string;
  kind: "station" | Device["kind"];
  path: string;
  controllerId: string | null;
  wirePathId: string | null;
  address: string | null;
  serial: string | null;
  coil: "ac24" | "dcLatching" | null;
};

const SWITCHED = new Set<Device["kind"]>(["masterValve", "pump", "flowSensor", "pressureSensor", "meter"]);

/** Everything of the site that is or can be wired, stations first, in file order. */
export function wiredThings(site: SiteFile): Wired[] {
  const only = site.controllers.length === 1 ? (site.controllers[0]?.id ?? null) : null;
  const device = (d: Device, path: string): Wired[] =>
    SWITCHED.has(d.kind)
      ? [
          {
            id: d.id,
            label: d.name ?? d.id,
            kind: d.kind,
            path,
            controllerId: d.controllerId ?? only,
            wirePathId: d.wirePathId ?? null,
            address: d.address ?? null,
            serial: d.serial ?? null,
            coil: d.kind === "masterValve" ? (d.coil ?? null) : null,
          },
        ]
      : [];
  return [
    ...site.stations.map(
      (s, i): Wired => ({
        id: s.id,
        label: `${s.number} ${s.name}`,
        kind: "station",
        path: `stations[${i}]`,
        controllerId: s.controllerId,
        wirePathId: s.wirePathId ?? null,
        address: s.address ?? null,
        serial: s.serial ?? null,
        coil: s.coil ?? null,
      }),
    ),
    ...site.pocs.flatMap((p, i) => p.devices.flatMap((d, j) => device(d, `pocs[${i}].devices[${j}]`))),
    ...site.mainlines.flatMap((m, i) =>
      (m.devices ?? []).flatMap((d, j) => device(d, `mainlines[${i}].devices[${j}]`)),
    ),
  ];
}

/** "A-017", "a17" and "A 17" are one address to whoever reads a label. */
const plain = (text: string): string =>
  text
    .toLowerCase()
    .replace(/[\s._-]/g, "")
    .replace(/(^|\D)0+(?=\d)/g, "$1");
export function sameAddress(a: string, b: string): boolean {
  return plain(a) === plain(b);
}

export type Conflict = { code: "addressTwice" | "serialTwice"; first: Wired; second: Wired; value: string };

/**
 * Addresses used twice. A terminal or decoder address counts within one wire path (without one: within the controller); a serial
 * number counts on the whole site, with its output where a decoder has several ("12AB/2").
 */
export function addressConflicts(things: Wired[]): Conflict[] {
  const found: Conflict[] = [];
  const byAddress = new Map<string, Wired[]>();
  const bySerial = new Map<string, Wired[]>();
  /** Those before it under the same key. */
  const before = (known: Map<string, Wired[]>, key: string, thing: Wired): Wired[] => {
    const there = known.get(key) ?? [];
    known.set(key, [...there, thing]);
    return there;
  };
  for (const second of things) {
    const { address, serial } = second;
    const onWire = address
      ? before(byAddress, JSON.stringify([second.controllerId, second.wirePathId ?? "", plain(address)]), second)
      : [];
    const ofSerial = serial ? before(bySerial, plain(serial), second) : [];
    const mine: Conflict[] = [
      ...onWire
        // A decoder's outputs are told apart by its serial number.
        .filter((first) => first.serial === null || serial === null)
        .map((first) => ({ code: "addressTwice" as const, first, second, value: address ?? "" })),
      ...ofSerial
        .filter((first) => !first.address || !address || sameAddress(first.address, address))
        .map((first) => ({ code: "serialTwice" as const, first, second, value: serial ?? "" })),
    ];
    found.push(...mine.sort((a, b) => things.indexOf(a.first) - things.indexOf(b.first)));
  }
  return found;
}

export type Scan = {
  serials: string[];
  refused: { text: string; code: "taken" | "twice" | "notASerial"; by?: string }[];
};

/** Pasted or scanned lines → serial numbers for the tray; what is already used, listed twice, or no serial number is refused, each with why. */
export function scanSerials(site: SiteFile, text: string): Scan {
  const result: Scan = { serials: [], refused: [] };
  const things = wiredThings(site);
  for (const raw of text.split(/[\s,;]+/)) {
    const serial = raw.trim();
    if (serial === "") continue;
    const owner = things.find((t) => t.serial && sameAddress(t.serial, serial));
    if (!/^[\w./:-]{2,80}$/.test(serial) || !/\d/.test(serial))
      result.refused.push({ text: serial.slice(0, 40), code: "notASerial" });
    else if (owner) result.refused.push({ text: serial, code: "taken", by: owner.label });
    else if (
      result.serials.some((s) => sameAddress(s, serial)) ||
      (site.tray ?? []).some((t) => sameAddress(t.serial, serial))
    )
      result.refused.push({ text: serial, code: "twice" });
    else result.serials.push(serial);
  }
  return result;
}
