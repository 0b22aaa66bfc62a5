import { devicesOf } from "./records.ts";
import type { SiteFile } from "./schema.ts";

/** By what a piece of one site is the same as one of another: what it is and what it is called, stations by their controller and number. */
function calledOf(site: SiteFile): Map<string, string> {
  const called = new Map<string, string>();
  const add = (key: string, id: string): void => {
    // Of several that are called alike the first stands for the name.
    if (!called.has(key)) called.set(key, id);
  };
  const controllers = new Map(site.controllers.map((c) => [c.id, c.name]));
  for (const kind of ["sources", "pocs", "mainlines", "controllers", "programs"] as const)
    for (const e of site[kind]) add(`${kind} ${e.name.toLowerCase()}`, e.id);
  for (const input of site.weatherInputs ?? []) add(`inputs ${input.name.toLowerCase()}`, input.id);
  for (const s of site.stations) add(`station ${controllers.get(s.controllerId)?.toLowerCase()} ${s.number}`, s.id);
  for (const owner of [...site.pocs, ...site.mainlines])
    for (const [i, d] of devicesOf({ ...site, pocs: [], mainlines: [], ...ownedBy(owner) }).entries())
      add(`device ${owner.name.toLowerCase()} ${d.kind} ${(d.name ?? String(i)).toLowerCase()}`, d.id);
  return called;
}

const ownedBy = (owner: SiteFile["pocs"][number] | SiteFile["mainlines"][number]): Partial<SiteFile> =>
  "pipes" in owner ? { mainlines: [owner] } : { pocs: [owner] };

/** Keys whose texts name a piece. */
const NAMES_A_PIECE = /(^id$|Ids?$)/;

function renamed(value: unknown, ids: ReadonlyMap<string, string>, names = false): unknown {
  if (typeof value === "string") return names ? (ids.get(value) ?? value) : value;
  if (Array.isArray(value)) return value.map((v) => renamed(v, ids, names));
  if (value === null || typeof value !== "object") return value;
  return Object.fromEntries(Object.entries(value).map(([key, v]) => [key, renamed(v, ids, NAMES_A_PIECE.test(key))]));
}

/**
 * Another site as if its pieces had the ids of this one's that are called alike, so that the two can be told apart in words: what has no like stays as it is, and is told as
 * there on one side only.
 */
export function asCalledHere(here: SiteFile, other: SiteFile): SiteFile {
  const known = calledOf(here);
  const ids = new Map<string, string>([[other.site.id, here.site.id]]);
  for (const [called, id] of calledOf(other)) {
    const like = known.get(called);
    if (like !== undefined) ids.set(id, like);
  }
  // A piece of the other's that only happens to have an id of ours must not be taken for it.
  const taken = new Set(ids.values());
  const all = new Set([...known.values()]);
  for (const id of calledOf(other).values())
    if (!ids.has(id) && (taken.has(id) || all.has(id))) ids.set(id, `${id} (there)`);
  return renamed(other, ids) as SiteFile;
}
