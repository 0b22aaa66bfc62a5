import { stationName } from "./station-name.ts";
import { daysSchema, daysWords } from "../dates/day-rules.ts";
import { codeWords } from "./code-words.ts";
import { piecesOf } from "./pieces.ts";
import { localIso } from "../dates/wall-time.ts";
import { type Quantity, toShown, unitLabel, type UnitSystem } from "../units/units.ts";
import type { DeviceCheck, Proving, SiteFile, Source } from "./schema.ts";

/** One change between two site files, in words: what, from what, to what. `path` names it in the file. */
export type Change = { path: string; words: string };
/** The same with its parts apart: what it is, and what stands on either side. */
export type ToldChange = Change & { what: string; was: string; now: string };

type KeptFile = { name: string; about?: string };
type Item = { id: string; name?: string; number?: number };
const LISTS = [
  ["sources", "source"],
  ["pocs", "point of connection"],
  ["mainlines", "mainline"],
  ["controllers", "controller"],
  ["stations", "station"],
  ["programs", "program"],
  ["weatherInputs", "weather input"],
  ["plans", "plan"],
] as const;

/**
 * Differences from `before` to `after`, in words. Elements are matched by id, so an inserted row is one change, not a
 * shift of all after it.
 */
export function difference(before: SiteFile, after: SiteFile): Change[] {
  return toldDifference(before, after).map(({ path, words }) => ({ path, words }));
}

/** As {@link difference}, each change with its parts. */
export function toldDifference(before: SiteFile, after: SiteFile): ToldChange[] {
  const changes: ToldChange[] = [];
  compareFields("site", "site", before.site, after.site, after, changes);
  compareFields("policy", "limits", before.policy, after.policy, after, changes);
  for (const [list, noun] of LISTS)
    compareLists(list, noun, (before[list] ?? []) as Item[], (after[list] ?? []) as Item[], after, changes);
  compareFields(
    "wireThresholds",
    "wire readings",
    before.wireThresholds ?? {},
    after.wireThresholds ?? {},
    after,
    changes,
  );
  compareRecords(
    "wireReadings",
    "wire reading",
    before.wireReadings ?? [],
    after.wireReadings ?? [],
    (r) => `${nameOf(after, r.subjectId)}: ${r.ohm} Ω at the ${r.where ?? "controller"}`,
    changes,
  );
  compareRecords("files", "file", before.files ?? [], after.files ?? [], (f) => f.name, changes);
  compareRecords("tray", "tray", before.tray ?? [], after.tray ?? [], (t) => t.serial, changes);
  compareRecords(
    "setRatios",
    "set",
    before.setRatios ?? [],
    after.setRatios ?? [],
    (r) => `${r.stationIds.length} stations together use ${Math.round(1000 * r.ratio) / 10} % of their sum`,
    changes,
  );
  const placed = new Map((before.positions ?? []).map((p) => [p.id, p]));
  const moved = (after.positions ?? []).filter((p) => !same(placed.get(p.id), p)).length;
  const dropped = (before.positions ?? []).filter((p) => !(after.positions ?? []).some((q) => q.id === p.id)).length;
  const drawing = (now: string): ToldChange => ({
    path: "positions",
    words: `drawing: ${now}`,
    what: "drawing",
    was: "as it was",
    now,
  });
  if (moved > 0) changes.push(drawing(`${moved} piece${moved > 1 ? "s" : ""} moved`));
  if (moved === 0 && dropped > 0) changes.push(drawing("arranged by itself again"));
  return changes;
}

/** Something that is on one side only. */
function oneSided(path: string, what: string, there: "was" | "now", words: string): ToldChange {
  return { path, words, what, was: there === "was" ? "there" : "none", now: there === "now" ? "there" : "none" };
}

function title(noun: string, item: Item): string {
  return `${noun} ${item.number === undefined ? "" : `${item.number} `}${item.name ?? item.id}`;
}

function compareLists(
  list: string,
  noun: string,
  before: Item[],
  after: Item[],
  site: SiteFile,
  changes: ToldChange[],
): void {
  const old = new Map(before.map((x) => [x.id, x]));
  const now = new Set(after.map((x) => x.id));
  for (const x of before)
    if (!now.has(x.id)) changes.push(oneSided(`${list}[${x.id}]`, title(noun, x), "was", `${title(noun, x)} removed`));
  for (const x of after) {
    const was = old.get(x.id);
    if (!was) changes.push(oneSided(`${list}[${x.id}]`, title(noun, x), "now", `${title(noun, x)} added`));
    else compareFields(`${list}[${x.id}]`, title(noun, x), was, x, site, changes);
  }
  const kept = before.filter((x) => now.has(x.id)).map((x) => x.id);
  const order = after.filter((x) => old.has(x.id)).map((x) => x.id);
  const what = `order of ${list === "pocs" ? "points of connection" : list}`;
  if (kept.join("\n") !== order.join("\n"))
    changes.push({ path: list, words: `${what} changed`, what, was: "one order", now: "another" });
}

function compareFields(
  path: string,
  who: string,
  before: object,
  after: object,
  site: SiteFile,
  changes: ToldChange[],
): void {
  const [was, now] = [before as Record<string, unknown>, after as Record<string, unknown>];
  for (const key of new Set([...Object.keys(was), ...Object.keys(now)])) {
    const [x, y] = [was[key], now[key]];
    // Since when a figure is used goes with the change of the figure.
    if (same(x, y) || key === "expectedSince") continue;
    const compare = PARTS[key];
    if (compare && Array.isArray(x ?? []) && Array.isArray(y ?? []))
      compare(`${path}.${key}`, who, x ?? [], y ?? [], site, changes);
    else if (key === "enabled")
      changes.push({
        path: `${path}.${key}`,
        words: `${who}: ${y === false ? "taken out of use" : "in use again"}`,
        what: who,
        was: x === false ? "not in use" : "in use",
        now: y === false ? "not in use" : "in use",
      });
    else {
      const [from, to] = [valueWords(key, x, site.site), valueWords(key, y, site.site)];
      changes.push({
        path: `${path}.${key}`,
        words: `${who}: ${keyWords(key)} ${from} → ${to}`,
        what: `${who}: ${keyWords(key)}`,
        was: from,
        now: to,
      });
    }
  }
}

type CompareParts = (
  path: string,
  who: string,
  was: unknown,
  now: unknown,
  site: SiteFile,
  changes: ToldChange[],
) => void;

/** Fields whose parts are told one by one. */
const PARTS: Readonly<Record<string, CompareParts>> = {
  devices: (path, who, was, now, site, changes) =>
    compareLists(path, `${who}: device`, was as Item[], now as Item[], site, changes),
  pipes: (path, who, was, now, site, changes) =>
    compareLists(path, `${who}: pipe`, was as Item[], now as Item[], site, changes),
  checks: (path, who, was, now, _, changes) =>
    compareRecords<DeviceCheck>(
      path,
      `${who}: check`,
      was as DeviceCheck[],
      now as DeviceCheck[],
      (c) => `${codeWords(c.check)} ${c.ok ? "in order" : "NOT in order"}`,
      changes,
    ),
  provings: (path, who, was, now, _, changes) =>
    compareRecords<Proving>(
      path,
      who,
      was as Proving[],
      now as Proving[],
      (p) => `proved with ${p.tests.length} test${p.tests.length > 1 ? "s" : ""}, worst ${p.worstPercent.toFixed(2)} %`,
      changes,
    ),
  files: (path, who, was, now, _, changes) =>
    compareRecords(
      path,
      who,
      was as KeptFile[],
      now as KeptFile[],
      (f) => `file ${f.name}${f.about ? `, ${f.about}` : ""}`,
      changes,
    ),
  pins: (_, who, was, now, site, changes) => comparePins(who, was as Pin[], now as Pin[], site, changes),
  runs: (path, who, was, now, site, changes) => compareRuns(path, who, was as Run[], now as Run[], site, changes),
};

function nameOf(site: SiteFile, id: string): string {
  return piecesOf(site).find((p) => p.id === id)?.name ?? id;
}

/** Lists of records: what came and what went, each in its own words. */
function compareRecords<T extends object>(
  path: string,
  who: string,
  before: T[],
  after: T[],
  words: (record: T) => string,
  changes: ToldChange[],
): void {
  for (const r of after)
    if (!before.some((x) => same(x, r)))
      changes.push(oneSided(path, `${who}: ${words(r)}`, "now", `${who}: ${words(r)}`));
  for (const r of before)
    if (!after.some((x) => same(x, r)))
      changes.push(oneSided(path, `${who}: ${words(r)}`, "was", `${who}: ${words(r)} removed`));
}

type Pin = { id: string; x: number; y: number };

function comparePins(who: string, before: Pin[], after: Pin[], site: SiteFile, changes: ToldChange[]): void {
  const [was, now] = [new Map(before.map((p) => [p.id, p])), new Map(after.map((p) => [p.id, p]))];
  const told = (id: string, words: string): void => {
    const what = `${who}: pin of ${nameOf(site, id)}`;
    const there = (on: Map<string, Pin>): string => (on.has(id) ? "on it" : "not on it");
    changes.push({ path: "plans", words: `${what} ${words}`, what, was: there(was), now: there(now) });
  };
  for (const p of after)
    if (!was.has(p.id)) told(p.id, "set");
    else if (!same(was.get(p.id), p)) told(p.id, "moved");
  for (const p of before) if (!now.has(p.id)) told(p.id, "taken off");
}

type Run = { stationId: string; minutes: number };

function compareRuns(
  path: string,
  who: string,
  before: Run[],
  after: Run[],
  site: SiteFile,
  changes: ToldChange[],
): void {
  const label = (id: string): string => stationName(site, id);
  const total = (runs: Run[]): Map<string, number> => {
    const sums = new Map<string, number>();
    for (const r of runs) sums.set(r.stationId, (sums.get(r.stationId) ?? 0) + r.minutes);
    return sums;
  };
  const [was, now] = [total(before), total(after)];
  let listed = 0;
  for (const id of new Set([...was.keys(), ...now.keys()])) {
    const [x, y] = [was.get(id), now.get(id)];
    if (x === y) continue;
    listed++;
    const moved = y === undefined ? `${label(id)} taken out` : `${label(id)} ${x} → ${y} min`;
    const words = x === undefined ? `${label(id)} added, ${y} min` : moved;
    const minutes = (of: number | undefined): string => (of === undefined ? "not in it" : `${of} min`);
    changes.push({
      path: `${path}[${id}]`,
      words: `${who}: ${words}`,
      what: `${who}: ${label(id)}`,
      was: minutes(x),
      now: minutes(y),
    });
  }
  const what = `${who}: order of stations`;
  if (listed === 0) changes.push({ path, words: `${what} changed`, what, was: "one order", now: "another" });
}

/** What the end of a field's name says of its figure: a quantity, written in the site's units, or a unit that all use. */
const UNIT_ENDINGS: [RegExp, { quantity: Quantity } | { unit: string }][] = [
  [/Lpm$/, { quantity: "flow" }],
  [/Kpa$/, { quantity: "pressure" }],
  [/Mm$/, { quantity: "diameter" }],
  [/Ms$/, { quantity: "velocity" }],
  [/Min$/, { unit: "min" }],
  [/Percent$/, { unit: "%" }],
  [/Ma$/, { unit: "mA" }],
  [/M3$/, { quantity: "bulk" }],
  [/M2$/, { quantity: "area" }],
  [/S$/, { unit: "s" }],
  [/M$/, { quantity: "length" }],
  [/Hz$/, { unit: "Hz" }],
];

/** `offScheduleLimitLpm` → `off schedule limit`. */
function keyWords(key: string): string {
  const bare = UNIT_ENDINGS.reduce((k, [ending]) => (k === key && ending.test(k) ? k.replace(ending, "") : k), key);
  return codeWords(bare || key)
    .replace(/ ids?$/, "")
    .replace(/^(poc|source|mainline|controller|feed)$/, "$1");
}

/** A figure as it was entered, in the site's units: four decimals where it stands as entered, two where it was converted. */
function figureWords(key: string, value: number, units: UnitSystem): string {
  const of = UNIT_ENDINGS.find(([ending]) => ending.test(key))?.[1];
  if (!of) return `${Number(value.toFixed(4))}`;
  if ("unit" in of) return `${Number(value.toFixed(4))} ${of.unit}`;
  const shown = toShown(value, of.quantity, units);
  return `${Number(shown.toFixed(shown === value ? 4 : 2))} ${unitLabel(of.quantity, units)}`;
}

/** Fields that hold one of a few codes. */
const CODED =
  /^(kind|preset|basis|judge|dispatch|powered|planting|emitter|coil|how|type|normally|expectedFrom|output)$|[rR]esponse$/;

/** Codes as words; what a person wrote stays as it is. */
function textWords(key: string, value: string): string {
  if (value === "") return "empty";
  return CODED.test(key) ? codeWords(value) : value;
}

/** How the site writes figures, and when it is there. */
type Customs = { units: UnitSystem; timeZone: string };
const INSTANT = /^\d{4}-\d\d-\d\dT[\d:.]+(Z|[+-]\d\d:\d\d)$/;

function instantWords(instant: string, { timeZone }: Customs): string {
  return localIso(timeZone, Math.floor(Date.parse(instant) / 1000))
    .slice(0, 16)
    .replace("T", " ");
}

type Price = NonNullable<Source["price"]>;

/** `2.4 per m³, over 100 m³ 3.1`. */
function priceWords({ perM3, steps = [] }: Price, { units }: Customs): string {
  const each = (of: number): string => `${Number((of / toShown(1, "bulk", units)).toFixed(4))}`;
  const unit = unitLabel("bulk", units);
  const over = steps.map((s) => `over ${Number(toShown(s.overM3, "bulk", units).toFixed(1))} ${unit} ${each(s.perM3)}`);
  return [`${each(perM3)} per ${unit}`, ...over].join(", ");
}

function valueWords(key: string, value: unknown, customs: Customs): string {
  const { units } = customs;
  if (value === undefined || value === null) return "none";
  if (value === true) return "yes";
  if (value === false) return "no";
  if (typeof value === "number") return figureWords(key, value, units);
  if (typeof value === "string") return INSTANT.test(value) ? instantWords(value, customs) : textWords(key, value);
  if (Array.isArray(value))
    return value.length === 0 ? "none" : value.map((v) => valueWords(key, v, customs)).join(", ");
  const days = key === "days" ? daysSchema.safeParse(value) : null;
  if (days?.success) return daysWords(days.data);
  if (key === "price") return priceWords(value as Price, customs);
  const object = value as Record<string, unknown>;
  if (key === "learned")
    return `${figureWords("meanLpm", Number(object["meanLpm"]), units)} ± ${figureWords("sdLpm", Number(object["sdLpm"]), units)} (${object["how"] ? `${object["how"]}, ` : ""}${instantWords(String(object["at"]), customs).slice(0, 10)})`;
  if (typeof object["from"] === "string" && typeof object["to"] === "string")
    return `${Array.isArray(object["days"]) ? `${object["days"].join(" ")} ` : ""}${object["from"]}–${object["to"]}`;
  return Object.entries(object)
    .filter(([, v]) => v !== undefined)
    .map(([k, v]) => `${keyWords(k)} ${valueWords(k, v, customs)}`)
    .join(", ");
}

function same(a: unknown, b: unknown): boolean {
  if (Object.is(a, b)) return true;
  if (typeof a !== "object" || typeof b !== "object" || a === null || b === null) return false;
  const keys = new Set([...Object.keys(a), ...Object.keys(b)]);
  for (const k of keys) if (!same((a as Record<string, unknown>)[k], (b as Record<string, unknown>)[k])) return false;
  return true;
}
