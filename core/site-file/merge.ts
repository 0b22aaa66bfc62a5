import { difference } from "./difference.ts";
import type { SiteFile } from "./schema.ts";

export type Side = "mine" | "theirs";
/** A field that both changed, each to something else. `path` names it: `stations[s1].name`. */
export type Clash = { path: string; words: { mine: string; theirs: string } };
export type Merged = { file: SiteFile; clashes: Clash[] };

type Json = unknown;
type Item = { id?: string; stationId?: string };

const isRecord = (v: Json): v is Record<string, Json> => typeof v === "object" && v !== null && !Array.isArray(v);
const keyOf = (v: Json): string | null => {
  if (!isRecord(v)) return null;
  const { id, stationId } = v as Item;
  return id ?? stationId ?? null;
};
/** A list whose items are told apart by an id of their own, once each. */
function isKeyed(...lists: Json[]): boolean {
  return lists.every((list) => {
    if (!Array.isArray(list)) return false;
    const keys = list.map(keyOf);
    return keys.every((k) => k !== null) && new Set(keys).size === keys.length;
  });
}

function same(a: Json, b: Json): boolean {
  if (Object.is(a, b)) return true;
  if (Array.isArray(a) && Array.isArray(b)) return a.length === b.length && a.every((x, i) => same(x, b[i]));
  if (!isRecord(a) || !isRecord(b)) return false;
  const keys = new Set([...Object.keys(a), ...Object.keys(b)]);
  return [...keys].every((k) => same(a[k], b[k]));
}

/**
 * Two changes of one configuration put together, field by field. What only one changed is taken from that one, whatever is chosen; what both changed alike is taken;
 * only a field that both changed differently is a clash, and `choose` says whose it is to be. Elements are matched by their id, runs by their station.
 */
export function mergeSites(
  base: SiteFile,
  mine: SiteFile,
  theirs: SiteFile,
  choose: (path: string) => Side = () => "theirs",
): Merged {
  const paths: string[] = [];
  const pick = (path: string): Side => {
    paths.push(path);
    return choose(path);
  };
  const file = merged(base, mine, theirs, "", pick) as SiteFile;
  return { file, clashes: paths.map((path) => ({ path, words: clashWords(base, mine, theirs, path) })) };
}

function merged(base: Json, mine: Json, theirs: Json, path: string, choose: (path: string) => Side): Json {
  if (same(mine, theirs) || same(base, mine)) return theirs;
  if (same(base, theirs)) return mine;
  if (isRecord(mine) && isRecord(theirs)) return mergedRecord(isRecord(base) ? base : {}, mine, theirs, path, choose);
  if (isKeyed(mine, theirs) && (base === undefined || isKeyed(base)))
    return mergedList((base ?? []) as Json[], mine as Json[], theirs as Json[], path, choose);
  return choose(path) === "mine" ? mine : theirs;
}

function mergedRecord(
  base: Record<string, Json>,
  mine: Record<string, Json>,
  theirs: Record<string, Json>,
  path: string,
  choose: (path: string) => Side,
): Json {
  const out: Record<string, Json> = {};
  for (const key of new Set([...Object.keys(theirs), ...Object.keys(mine)])) {
    const value = merged(base[key], mine[key], theirs[key], path === "" ? key : `${path}.${key}`, choose);
    if (value !== undefined) out[key] = value;
  }
  return out;
}

function mergedList(base: Json[], mine: Json[], theirs: Json[], path: string, choose: (path: string) => Side): Json {
  const by = (list: Json[]): Map<string, Json> => new Map(list.map((v) => [keyOf(v) as string, v]));
  const [was, ours, others] = [by(base), by(mine), by(theirs)];
  const keys = (list: Json[]): string[] => list.map((v) => keyOf(v) as string);
  // The order of whoever changed it; new ones of the other come after what they stood after.
  const kept = keys(base).filter((k) => ours.has(k));
  const moved =
    keys(mine)
      .filter((k) => was.has(k))
      .join("\n") !== kept.join("\n");
  const order = moved ? keys(mine) : keys(theirs);
  const other = moved ? keys(theirs) : keys(mine);
  other.forEach((key, i) => {
    if (!order.includes(key)) order.splice(order.indexOf(other[i - 1] ?? "") + 1, 0, key);
  });
  return order.flatMap((key) => {
    const value = merged(was.get(key), ours.get(key), others.get(key), `${path}[${key}]`, choose);
    return value === undefined ? [] : [value];
  });
}

/** What each would make of the field, in the words of the log. */
function clashWords(base: SiteFile, mine: SiteFile, theirs: SiteFile, path: string): Clash["words"] {
  const with_ = (side: Side): SiteFile =>
    merged(base, mine, theirs, "", (at) => (at === path ? side : "theirs")) as SiteFile;
  const without = merged(base, base, theirs, "", () => "theirs") as SiteFile;
  const told = (to: SiteFile, from: SiteFile): string =>
    difference(from, to)
      .map((c) => c.words)
      .join("; ");
  const theirsOnly = difference(base, theirs).find((c) => path.startsWith(c.path) || c.path.startsWith(path));
  return { mine: told(with_("mine"), without) || path, theirs: theirsOnly?.words ?? path };
}
