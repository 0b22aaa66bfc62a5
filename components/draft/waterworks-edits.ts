import { clean, type Patch } from "@/core/site-file/patch";
import { freshId } from "@/core/site-file/fresh-id";
import { withoutPinsOf } from "@/core/site-file/pieces";
import type { Device, SiteFile } from "@/core/site-file/schema";

/** What can be done to the waterworks, as plain functions of the file. */
export function patchDevice(id: string, values: Patch<Device>) {
  return replaceDevice(id, (d) => ({ ...d, ...values }) as typeof d);
}
export function replaceDevice(id: string, make: <T extends Device>(device: T) => T) {
  const patch = <T extends Device>(d: T): T => (d.id === id ? clean<T>(make(d) as Patch<T>) : d);
  return (file: SiteFile): SiteFile => ({
    ...file,
    pocs: file.pocs.map((p) => ({ ...p, devices: p.devices.map(patch) })),
    mainlines: file.mainlines.map((m) => ({
      ...m,
      pipes: m.pipes.map(patch),
      ...(m.devices ? { devices: m.devices.map(patch) } : {}),
    })),
  });
}

export function addSource(file: SiteFile): { file: SiteFile; id: string } {
  const id = freshId(file, "source");
  return {
    id,
    file: { ...file, sources: [...file.sources, { id, name: `Source ${file.sources.length + 1}`, kind: "municipal" }] },
  };
}

export function addPoc(file: SiteFile): { file: SiteFile; id: string } {
  const id = freshId(file, "poc");
  const first = file.sources[0];
  return {
    id,
    file: {
      ...file,
      pocs: [
        ...file.pocs,
        { id, name: `Connection ${file.pocs.length + 1}`, sourceIds: first ? [first.id] : [], devices: [] },
      ],
    },
  };
}

export function addMainline(file: SiteFile): { file: SiteFile; id: string } {
  const id = freshId(file, "main");
  const first = file.pocs[file.pocs.length - 1];
  return {
    id,
    file: {
      ...file,
      mainlines: [
        ...file.mainlines,
        { id, name: `Main ${file.mainlines.length + 1}`, feedIds: first ? [first.id] : [], pipes: [] },
      ],
    },
  };
}

export function addController(file: SiteFile): { file: SiteFile; id: string } {
  const id = freshId(file, "controller");
  return {
    id,
    file: {
      ...file,
      controllers: [...file.controllers, { id, name: `Controller ${file.controllers.length + 1}`, powered: "mains" }],
    },
  };
}

const NEW_DEVICE: Record<Device["kind"], (id: string) => Device> = {
  meter: (id) => ({ id, kind: "meter" }),
  backflow: (id) => ({ id, kind: "backflow" }),
  masterValve: (id) => ({ id, kind: "masterValve", normally: "closed" }),
  pump: (id) => ({
    id,
    kind: "pump",
    curve: [
      { flowLpm: 0, headM: 50 },
      { flowLpm: 200, headM: 30 },
    ],
  }),
  pipe: (id) => ({ id, kind: "pipe", material: "PVC", series: "SCH40", nominal: "2 in", lengthM: 10 }),
  fixedLoss: (id) => ({ id, kind: "fixedLoss", lossKpa: 20 }),
  regulator: (id) => ({ id, kind: "regulator", setKpa: 350 }),
  pressureSensor: (id) => ({ id, kind: "pressureSensor" }),
  flowSensor: (id) => ({ id, kind: "flowSensor", output: { type: "frequency", kGpm: 1, offsetHz: 0 } }),
};

/** Kinds of piece whose ids begin with a shorter word. */
const CALLED: Partial<Record<Device["kind"], string>> = { flowSensor: "sensor", masterValve: "valve" };

/** Adds a piece to a POC or mainline, at the end or at a place along its flow (on a mainline, devices stand before its pipes). */
export function addDevice(
  file: SiteFile,
  ownerId: string,
  kind: Device["kind"],
  at = Number.POSITIVE_INFINITY,
): { file: SiteFile; id: string } {
  const id = freshId(file, CALLED[kind] ?? kind);
  const device = NEW_DEVICE[kind](id);
  return {
    id,
    file: {
      ...file,
      pocs: file.pocs.map((p) => (p.id === ownerId ? { ...p, devices: inserted(p.devices, device, at) } : p)),
      mainlines: file.mainlines.map((m) => {
        if (m.id !== ownerId) return m;
        return device.kind === "pipe"
          ? { ...m, pipes: inserted(m.pipes, device, at - (m.devices?.length ?? 0)) }
          : { ...m, devices: inserted(m.devices ?? [], device, at) };
      }),
    },
  };
}

function inserted<T>(list: T[], item: T, at: number): T[] {
  const place = Math.max(0, Math.min(list.length, at));
  return [...list.slice(0, place), item, ...list.slice(place)];
}

/** May water go from one to the other: a source into a POC, a POC or mainline into a mainline, never in a circle. */
export function mayFeed(file: SiteFile, from: string, to: string): boolean {
  if (from === to) return false;
  if (file.pocs.some((p) => p.id === to && !p.sourceIds.includes(from))) return file.sources.some((s) => s.id === from);
  const fed = file.mainlines.find((m) => m.id === to);
  if (!fed || fed.feedIds.includes(from)) return false;
  return (
    file.pocs.some((p) => p.id === from) || (file.mainlines.some((m) => m.id === from) && !isFedBy(file, from, to))
  );
}

/** Is a mainline fed, directly or through others, by another? */
export function isFedBy(file: SiteFile, candidate: string, target: string): boolean {
  const above = [candidate];
  for (const id of above)
    for (const f of file.mainlines.find((m) => m.id === id)?.feedIds ?? []) {
      if (f === target) return true;
      if (!above.includes(f)) above.push(f);
    }
  return false;
}

export function connect(from: string, to: string) {
  return (file: SiteFile): SiteFile =>
    mayFeed(file, from, to)
      ? {
          ...file,
          pocs: file.pocs.map((p) => (p.id === to ? { ...p, sourceIds: [...p.sourceIds, from] } : p)),
          mainlines: file.mainlines.map((m) => (m.id === to ? { ...m, feedIds: [...m.feedIds, from] } : m)),
        }
      : file;
}

export function disconnect(from: string, to: string) {
  return (file: SiteFile): SiteFile => ({
    ...file,
    pocs: file.pocs.map((p) => (p.id === to ? { ...p, sourceIds: p.sourceIds.filter((s) => s !== from) } : p)),
    mainlines: file.mainlines.map((m) => (m.id === to ? { ...m, feedIds: m.feedIds.filter((f) => f !== from) } : m)),
  });
}

/** Where elements stand on the drawing; null: all are arranged by themselves again. */
export function place(at: { id: string; x: number; y: number }[] | null) {
  return (file: SiteFile): SiteFile => {
    if (at === null) return clean({ ...file, positions: undefined });
    const moved = new Map(at.map((p) => [p.id, { id: p.id, x: Math.round(p.x), y: Math.round(p.y) }]));
    return { ...file, positions: [...(file.positions ?? []).filter((p) => !moved.has(p.id)), ...moved.values()] };
  };
}

const STANDARD: Device["kind"][] = ["meter", "backflow", "masterValve", "flowSensor"];

/** The usual chain of a point of connection, in flow order, laid at once. */
export function addStandard(file: SiteFile, pocId: string): SiteFile {
  return STANDARD.reduce((next, kind) => addDevice(next, pocId, kind).file, file);
}

/** Moves a device one place along the flow. */
export function moveDevice(id: string, by: -1 | 1) {
  const move = <T extends { id: string }>(list: T[]): T[] => {
    const from = list.findIndex((d) => d.id === id);
    const to = from + by;
    if (from < 0 || to < 0 || to >= list.length) return list;
    const next = [...list];
    [next[from], next[to]] = [next[to] as T, next[from] as T];
    return next;
  };
  return (file: SiteFile): SiteFile => ({
    ...file,
    pocs: file.pocs.map((p) => ({ ...p, devices: move(p.devices) })),
    mainlines: file.mainlines.map((m) => ({
      ...m,
      pipes: move(m.pipes),
      ...(m.devices ? { devices: move(m.devices) } : {}),
    })),
  });
}

/** What would be left hanging if this were deleted; empty when it may go. */
export function deletionBlocks(file: SiteFile, id: string): string[] {
  return [
    ...file.stations
      .filter((s) => s.mainlineId === id || s.controllerId === id)
      .map((s) => `station ${s.number} ${s.name}`),
    ...file.programs.filter((p) => p.controllerId === id).map((p) => `program ${p.name}`),
  ];
}

/** Deletes an element or a device; references to a deleted source or feed go with it. */
export function remove(id: string) {
  return (file: SiteFile): SiteFile =>
    withoutPinsOf(
      {
        ...file,
        sources: file.sources.filter((s) => s.id !== id),
        pocs: file.pocs
          .filter((p) => p.id !== id)
          .map((p) => ({
            ...p,
            sourceIds: p.sourceIds.filter((s) => s !== id),
            devices: p.devices.filter((d) => d.id !== id),
          })),
        mainlines: file.mainlines
          .filter((m) => m.id !== id)
          .map((m) => ({
            ...m,
            feedIds: m.feedIds.filter((f) => f !== id),
            pipes: m.pipes.filter((d) => d.id !== id),
            ...(m.devices ? { devices: m.devices.filter((d) => d.id !== id) } : {}),
          })),
        controllers: file.controllers.filter((c) => c.id !== id),
        ...(file.positions ? { positions: file.positions.filter((p) => p.id !== id) } : {}),
        ...(file.wireReadings ? { wireReadings: file.wireReadings.filter((r) => r.subjectId !== id) } : {}),
      },
      new Set([id]),
    );
}
