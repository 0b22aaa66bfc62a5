import { clean, type Patch, patched } from "@/core/site-file/patch";
import { freshId } from "@/core/site-file/fresh-id";
import type { Device, SiteFile, Station, WirePath, WireReading } from "@/core/site-file/schema";
import { addressConflicts, sameAddress, type Wired, wiredThings } from "@/core/wiring/addresses";
import { replaceDevice } from "./waterworks-edits";

export type Refusal = { words: string };
export type Outcome = { ok: true; file: SiteFile } | { ok: false; refusal: Refusal };

/** What of a wired thing can be set here, whatever it is. */
export type WiredValues = Patch<
  Pick<Station, "address" | "serial" | "wirePathId" | "coil" | "solenoidMa" | "controllerId">
>;

function put(file: SiteFile, id: string, values: WiredValues): SiteFile {
  if (file.stations.some((s) => s.id === id))
    return { ...file, stations: file.stations.map((s) => (s.id === id ? patched<Station>(s, values) : s)) };
  return replaceDevice(id, <T extends Device>(d: T): T => ({ ...d, ...values }) as T)(file);
}

/** Changes a wired thing, unless an address or serial number would then be used twice. */
export function setWired(file: SiteFile, id: string, values: WiredValues): Outcome {
  const next = put(file, id, values);
  const before = new Set(addressConflicts(wiredThings(file)).map((c) => `${c.first.id} ${c.second.id}`));
  const clash = addressConflicts(wiredThings(next)).find(
    (c) => (c.first.id === id || c.second.id === id) && !before.has(`${c.first.id} ${c.second.id}`),
  );
  if (!clash) return { ok: true, file: next };
  const other = clash.first.id === id ? clash.second : clash.first;
  return {
    ok: false,
    refusal: {
      words: `${clash.code === "addressTwice" ? "Address" : "Serial number"} ${clash.value} is ${other.label}'s already; both would answer.`,
    },
  };
}

/** Gives a serial number from the tray to a valve or device; what it had before goes back into the tray. */
export function assign(file: SiteFile, id: string, serial: string): Outcome {
  const thing = wiredThings(file).find((t) => t.id === id);
  const outcome = setWired(file, id, {
    serial,
    ...(thing?.kind === "station" && !thing.address ? { address: "1" } : {}),
  });
  if (!outcome.ok) return outcome;
  const tray = (outcome.file.tray ?? []).filter((t) => !sameAddress(t.serial, serial));
  const returned =
    thing?.serial &&
    !sameAddress(thing.serial, serial) &&
    !wiredThings(outcome.file).some((t) => t.serial && sameAddress(t.serial, thing.serial as string))
      ? [{ serial: thing.serial }]
      : [];
  return { ok: true, file: { ...outcome.file, tray: [...tray, ...returned] } };
}

export function addToTray(serials: string[]) {
  return (file: SiteFile): SiteFile => ({
    ...file,
    tray: [...(file.tray ?? []), ...serials.map((serial) => ({ serial }))],
  });
}

export function takeFromTray(serial: string) {
  return (file: SiteFile): SiteFile => ({ ...file, tray: (file.tray ?? []).filter((t) => t.serial !== serial) });
}

export function addWirePath(file: SiteFile, controllerId: string, kind: WirePath["kind"]): SiteFile {
  const id = freshId(file, "wire");
  return {
    ...file,
    controllers: file.controllers.map((c) =>
      c.id === controllerId
        ? { ...c, wirePaths: [...(c.wirePaths ?? []), { id, name: `Path ${(c.wirePaths?.length ?? 0) + 1}`, kind }] }
        : c,
    ),
  };
}

export function removeWirePath(file: SiteFile, controllerId: string, pathId: string): SiteFile {
  return {
    ...file,
    controllers: file.controllers.map((c) =>
      c.id === controllerId ? { ...c, wirePaths: (c.wirePaths ?? []).filter((w) => w.id !== pathId) } : c,
    ),
  };
}

/** Notes a resistance. Who and when are the server's to enter; until then it is the person's own clock. */
export function addReading(reading: Omit<WireReading, "id" | "at" | "by">, by: string, at: string) {
  return (file: SiteFile): SiteFile => ({
    ...file,
    wireReadings: [...(file.wireReadings ?? []), clean({ ...reading, id: freshId(file, "reading"), by, at })],
  });
}

/** The coil a thing has, or must have on its controller where it is not recorded. */
export function coilOf(file: SiteFile, thing: Wired): "ac24" | "dcLatching" {
  return (
    thing.coil ??
    (file.controllers.find((c) => c.id === thing.controllerId)?.powered === "battery" ? "dcLatching" : "ac24")
  );
}
