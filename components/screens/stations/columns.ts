import { cycleWords } from "@/components/words/cycle-words";
import type { Patch } from "@/core/site-file/patch";
import { arithmetic } from "@/core/units/arithmetic";
import { expectedFlow } from "@/core/site-file/expected-flow";
import type { SiteFile, Station } from "@/core/site-file/schema";
import { precipitationMmH } from "@/core/stations/emitters";
import { fromShown, type Quantity, toShown, unitLabel, type UnitSystem } from "@/core/units/units";

/** One column of the station grid: how a cell reads, how typed text becomes a value, and what is refused. */
export type Column = {
  key: string;
  title: (units: UnitSystem) => string;
  /** Other headings a spreadsheet may use, lower case. */
  also: string[];
  numeric: boolean;
  /** Comes from elsewhere: shown, never pasted over. */
  readOnly?: boolean;
  width: string;
  choices?: (file: SiteFile) => [string, string][];
  text: (station: Station, file: SiteFile, units: UnitSystem) => string;
  /** Empty text clears. */
  /** As it stands in the grid, where that differs from what one edits: decimals under each other. */
  shown?: (text: string, units: UnitSystem) => string;
  parse: (
    text: string,
    file: SiteFile,
    units: UnitSystem,
  ) => { ok: true; values: Patch<Station> } | { ok: false; why: string };
};

const ok = (values: Patch<Station>) => ({ ok: true as const, values });
const no = (why: string) => ({ ok: false as const, why });

/** Flows stand under each other at the decimal point: tenths of L/min, hundredths of gal/min. */
const aligned = (text: string, units: UnitSystem): string =>
  text === "" ? "" : Number(text).toFixed(units === "us" ? 2 : 1);

function numberColumn(
  key: keyof Station & string,
  title: string,
  also: string[],
  range: [number, number],
  options: { quantity?: Quantity; unit?: string; whole?: boolean; required?: boolean } = {},
): Column {
  const { quantity, whole, required } = options;
  const unit = (units: UnitSystem): string => (quantity ? unitLabel(quantity, units) : (options.unit ?? ""));
  return {
    key,
    also,
    numeric: true,
    width: "5.5rem",
    title: (units) => `${title}${unit(units) ? `, ${unit(units)}` : ""}`,
    ...(quantity === "flow" ? { shown: aligned } : {}),
    text: (s, _, units) => {
      const value = s[key] as number | undefined;
      return value === undefined ? "" : String(Number((quantity ? toShown(value, quantity, units) : value).toFixed(2)));
    },
    parse: (text, _, units) => {
      if (text.trim() === "") return required ? no(`${title} is needed`) : ok({ [key]: undefined });
      const typed = arithmetic(text);
      if (typed === null) return no(`"${text}" is not a number for ${title.toLowerCase()}`);
      const value = quantity ? fromShown(typed, quantity, units) : typed;
      if (whole && !Number.isInteger(value)) return no(`${title} must be a whole number, not ${text}`);
      if (value < range[0] || value > range[1])
        return no(
          `${title} must be from ${range[0]} to ${range[1]}${quantity ? ` ${unitLabel(quantity, "metric")}` : ""}, not ${text}`,
        );
      return ok({ [key]: value });
    },
  };
}

function choiceColumn(
  key: keyof Station & string,
  title: string,
  also: string[],
  choices: (file: SiteFile) => [string, string][],
  required: boolean,
): Column {
  return {
    key,
    also,
    numeric: false,
    width: required ? "7rem" : "5rem",
    choices,
    title: () => title,
    text: (s, file) => choices(file).find(([v]) => v === s[key])?.[1] ?? "",
    parse: (text, file) => {
      const plain = text.trim().toLowerCase();
      if (plain === "") return required ? no(`${title} is needed`) : ok({ [key]: undefined });
      const found = choices(file).find(([v, words]) => v.toLowerCase() === plain || words.toLowerCase() === plain);
      return found
        ? ok({ [key]: found[0] })
        : no(
            `"${text}" is no ${title.toLowerCase()} of this site; use one of: ${choices(file)
              .map(([, w]) => w)
              .join(", ")}`,
          );
    },
  };
}

function alsoClears(column: Column, values: Patch<Station>): Column {
  return {
    ...column,
    parse: (text, file, units) => {
      const parsed = column.parse(text, file, units);
      return parsed.ok ? ok({ ...parsed.values, ...values }) : parsed;
    },
  };
}

/** Yes unless the file says no. */
const NO = /^(no|n|false|0)$/i;
const YES = /^(yes|y|true|1|)$/i;
function yesColumn(key: "monitored" | "usesMasterValve" | "usesPump", title: string, also: string[]): Column {
  return {
    key,
    also,
    numeric: false,
    width: "5rem",
    choices: () => [
      ["yes", "yes"],
      ["no", "no"],
    ],
    title: () => title,
    text: (s) => (s[key] === false ? "no" : "yes"),
    parse: (text) =>
      NO.test(text.trim()) || YES.test(text.trim())
        ? ok({ [key]: NO.test(text.trim()) ? false : undefined })
        : no(`"${text}" should be yes or no`),
  };
}

const fixed = (list: string[]) => (): [string, string][] => list.map((v) => [v, v]);

export const COLUMNS: Column[] = [
  numberColumn("number", "No.", ["number", "no", "station", "nr", "#"], [0, 100_000], { whole: true, required: true }),
  {
    key: "name",
    title: () => "Name",
    also: ["description", "station name", "zone"],
    numeric: false,
    width: "11rem",
    text: (s) => s.name,
    parse: (text) => (text.length > 200 ? no("a name has at most 200 letters") : ok({ name: text.trim() })),
  },
  choiceColumn("controllerId", "Controller", ["controller"], (f) => f.controllers.map((c) => [c.id, c.name]), true),
  choiceColumn("mainlineId", "Mainline", ["mainline", "main"], (f) => f.mainlines.map((m) => [m.id, m.name]), true),
  choiceColumn("planting", "Planting", ["plants", "crop"], fixed(["turf", "shrub", "tree", "bed", "new"]), false),
  choiceColumn(
    "emitter",
    "Emitter",
    ["type", "head", "heads"],
    fixed(["spray", "rotor", "drip", "bubbler", "other"]),
    false,
  ),
  // A figure typed over what outlets gave is no longer theirs.
  alsoClears(
    numberColumn(
      "designFlowLpm",
      "Design",
      ["design flow", "flow", "design", "l/min", "lpm", "gpm", "gal/min"],
      [0, 1_000_000],
      {
        quantity: "flow",
      },
    ),
    { emitters: undefined },
  ),
  numberColumn("enteredFlowLpm", "By hand", ["entered", "entered flow", "measured"], [0, 1_000_000], {
    quantity: "flow",
  }),
  {
    key: "learned",
    readOnly: true,
    title: (u) => `Learned, ${unitLabel("flow", u)}`,
    also: [],
    numeric: true,
    width: "6rem",
    shown: aligned,
    text: (s, _, units) => (s.learned ? `${Number(toShown(s.learned.meanLpm, "flow", units).toPrecision(4))}` : ""),
    parse: () => no("learned figures come from Learn; enter a figure by hand instead"),
  },
  {
    key: "emitters",
    title: (u) => `Outlets × ${unitLabel("flow", u)}`,
    also: ["outlets", "emitters", "heads × flow"],
    numeric: true,
    width: "7rem",
    text: (s, _, units) =>
      s.emitters ? `${s.emitters.count} × ${Number(toShown(s.emitters.lpmEach, "flow", units).toPrecision(4))}` : "",
    parse: (text, _, units) => {
      if (text.trim() === "") return ok({ emitters: undefined });
      const parts = /^\s*([\d.]+)\s*[×x*]\s*([\d.]+)\s*$/i.exec(text);
      const [count, each] = [Number(parts?.[1]), Number(parts?.[2])];
      if (!parts || !Number.isFinite(count) || !Number.isFinite(each))
        return no(`"${text}" is no number of outlets times the flow of one: write "24 x 3.4"`);
      const lpmEach = fromShown(each, "flow", units);
      return ok({ emitters: { count, lpmEach }, designFlowLpm: count * lpmEach });
    },
  },
  choiceColumn("expectedFrom", "Uses", ["uses"], fixed(["learned", "entered", "design"]), false),
  {
    key: "cycle",
    title: () => "Cycle",
    also: ["cycles"],
    numeric: false,
    width: "6.5rem",
    text: ({ cycle }) => (cycle ? cycleWords(cycle) : ""),
    parse: (text) => {
      const plain = text.trim().toLowerCase();
      if (plain === "") return ok({ cycle: undefined });
      const count = /^(\d+)\s*(×|x|times|cycles)$/.exec(plain);
      if (count && Number(count[1]) >= 1 && Number(count[1]) <= 100) return ok({ cycle: { count: Number(count[1]) } });
      const longest = /^(?:max)?\s*([\d.]+)\s*(min)?$/.exec(plain);
      if (longest && Number(longest[1]) > 0 && Number(longest[1]) <= 1440)
        return ok({ cycle: { longestMin: Number(longest[1]) } });
      return no(`"${text}" is no cycle: write "max 5 min" for a longest cycle, or "3 x" for a number of cycles`);
    },
  },
  numberColumn("soakMin", "Soak", ["soak"], [0, 1440], { unit: "min" }),
  numberColumn("areaM2", "Area", ["area", "m2", "m²", "ft2", "ft²"], [0, 10_000_000], { quantity: "area" }),
  {
    key: "rate",
    readOnly: true,
    title: (u) => `Rain rate, ${unitLabel("rainRate", u)}`,
    also: ["precipitation rate"],
    numeric: true,
    width: "5rem",
    text: (s, _, units) => {
      const rate = precipitationMmH(expectedFlow(s)?.lpm, s.areaM2);
      return rate === null ? "" : toShown(rate, "rainRate", units).toFixed(units === "us" ? 2 : 1);
    },
    parse: () => no("the rain rate is worked from flow and area; enter those"),
  },
  numberColumn("requiredKpa", "Needs", ["pressure", "required pressure"], [0, 10_000], { quantity: "pressure" }),
  numberColumn("elevationM", "Level", ["elevation", "height"], [-500, 9000], { quantity: "length" }),
  numberColumn("alongM", "Along main", ["along", "distance", "chainage"], [0, 100_000], { quantity: "length" }),
  yesColumn("monitored", "Watched", ["monitored"]),
  yesColumn("usesMasterValve", "Uses MV", ["mv", "master valve"]),
  yesColumn("usesPump", "Uses pump", ["pump"]),
  numberColumn("holdOffS", "Hold-off", ["hold off"], [0, 86_400], { unit: "s", whole: true }),
  {
    key: "ignoresInputs",
    title: () => "Ignores",
    also: ["ignores", "weather"],
    numeric: false,
    width: "6rem",
    text: (s, file) =>
      (s.ignoresInputs ?? []).map((id) => file.weatherInputs?.find((w) => w.id === id)?.name ?? id).join("; "),
    parse: (text, file) => {
      const names = text
        .split(/[;,]/)
        .map((t) => t.trim())
        .filter((t) => t !== "");
      const inputs = file.weatherInputs ?? [];
      const unknown = names.find((n) => !inputs.some((w) => w.name.toLowerCase() === n.toLowerCase() || w.id === n));
      if (unknown)
        return no(
          `"${unknown}" is no weather input of this site${inputs.length > 0 ? `; use one of: ${inputs.map((w) => w.name).join(", ")}` : ""}`,
        );
      return ok({
        ignoresInputs:
          names.length === 0
            ? undefined
            : names.map(
                (n) => inputs.find((w) => w.name.toLowerCase() === n.toLowerCase() || w.id === n)?.id as string,
              ),
      });
    },
  },
];

/** Which column each spreadsheet heading means; null where the first row is not headings. */
export function matchHeadings(cells: string[], units: UnitSystem): (Column | null)[] | null {
  const plain = (t: string): string =>
    t
      .trim()
      .toLowerCase()
      .replace(/[,(].*$/, "")
      .replace(/[._]/g, " ")
      .trim();
  const matched = cells.map(
    (cell) =>
      COLUMNS.find(
        (c) =>
          plain(c.title(units)) === plain(cell) || c.also.includes(plain(cell)) || c.key.toLowerCase() === plain(cell),
      ) ?? null,
  );
  return matched.filter((m) => m !== null).length >= Math.max(2, Math.ceil(cells.length / 2)) ? matched : null;
}
