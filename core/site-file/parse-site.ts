import type { z } from "zod";
import { type Device, type SiteFile, siteFileSchema } from "./schema.ts";
import { tooMuch } from "./size-limits.ts";

/** A file error: every command and every save refuses the whole file for it. `path` is like `stations[1].colour`. */
export type FileProblem = { code: FileProblemCode; path: string; message: string };
export type FileProblemCode =
  | "notJson"
  | "shape"
  | "unknownKey"
  | "outOfRange"
  | "duplicateId"
  | "duplicateDate"
  | "unknownReference"
  | "feedLoop"
  | "controllerMismatch";

export type ParsedSite = { ok: true; site: SiteFile } | { ok: false; problems: FileProblem[] };

/** Text → site file. Truncated or foreign text is one `notJson` problem. */
export function parseSiteText(text: string): ParsedSite {
  let value: unknown;
  try {
    value = JSON.parse(text.replace(/^\uFEFF/, ""));
  } catch (error) {
    const detail = error instanceof Error ? error.message : "";
    return refuse(
      "notJson",
      "",
      `This is not a whole JSON document (${detail}). Export the site file again; it may have been cut off on the way.`,
    );
  }
  return parseSite(value);
}

/** Unknown value → site file: shape, then ids, references, loops of feeds, station and program on one controller. */
export function parseSite(value: unknown): ParsedSite {
  if (typeof value !== "object" || value === null || (value as { format?: unknown }).format !== "presa-site")
    return refuse("shape", "format", 'This is not a Presa site file: its first key should be "format": "presa-site".');
  const parsed = siteFileSchema.safeParse(value);
  if (!parsed.success) return { ok: false, problems: parsed.error.issues.flatMap(shapeProblems) };
  return asAWhole(parsed.data);
}

/** The same of a site that is known to be right but for parts of it: only those that are not the very same object as before are looked at piece by piece. */
export function parseSiteAfter(before: SiteFile, after: SiteFile): ParsedSite {
  const changed = (Object.keys(after) as (keyof SiteFile)[]).filter((part) => after[part] !== before[part]);
  const parsed = schemaOf(changed).safeParse(Object.fromEntries(changed.map((part) => [part, after[part]])));
  if (!parsed.success) return { ok: false, problems: parsed.error.issues.flatMap(shapeProblems) };
  return asAWhole({ ...after, ...parsed.data });
}

/** A schema is made ready when it is first used, which takes longer than reading a site by it. */
const readySchemas = new Map<string, z.ZodType<Partial<SiteFile>>>();
function schemaOf(parts: readonly (keyof SiteFile)[]): z.ZodType<Partial<SiteFile>> {
  const key = parts.join(" ");
  const ready = readySchemas.get(key);
  if (ready) return ready;
  const some = Object.fromEntries(parts.map((part) => [part, true])) as { [K in keyof SiteFile]?: true };
  const made: z.ZodType<Partial<SiteFile>> = siteFileSchema.pick(some);
  readySchemas.set(key, made);
  return made;
}

/** Parts of a site that fit each other: ids, references, loops of feeds, and how much there is of it. */
function asAWhole(site: SiteFile): ParsedSite {
  const problems = [...duplicateIds(site), ...brokenReferences(site), ...feedLoops(site)];
  if (problems.length === 0) problems.push(...tooMuch(site));
  return problems.length > 0 ? { ok: false, problems } : { ok: true, site };
}

/** For trusted constants only; throws the first problem. */
export function parseSiteOrThrow(value: unknown): SiteFile {
  const parsed = parseSite(value);
  if (parsed.ok) return parsed.site;
  const first = parsed.problems[0];
  throw new Error(first?.message);
}

/** One spelling for one content: stable two-space JSON with keys in the schema's order. */
export function writeSiteText(site: SiteFile): string {
  return `${JSON.stringify(siteFileSchema.parse(site), null, 2)}\n`;
}

function refuse(code: FileProblemCode, path: string, message: string): ParsedSite {
  return { ok: false, problems: [{ code, path, message }] };
}

/** ["stations", 1, "colour"] → `stations[1].colour`. */
export function pathText(path: readonly PropertyKey[]): string {
  const named = (p: PropertyKey, i: number): string => (i === 0 ? String(p) : `.${String(p)}`);
  return path.map((p, i) => (typeof p === "number" ? `[${p}]` : named(p, i))).join("");
}

function shapeProblems(issue: z.core.$ZodIssue): FileProblem[] {
  const path = pathText(issue.path);
  if (issue.code === "unrecognized_keys")
    return issue.keys.map((key) => ({
      code: "unknownKey" as const,
      path: pathText([...issue.path, key]),
      message: `${pathText([...issue.path, key])} is not a key of the site file. Remove it or correct its spelling.`,
    }));
  if (issue.code === "invalid_union" && issue.errors.length > 0) {
    const best = [...issue.errors].sort((a, b) => depth(b) - depth(a))[0] ?? [];
    const nested = best.flatMap((inner) =>
      shapeProblems({ ...inner, path: [...issue.path, ...inner.path] } as z.core.$ZodIssue),
    );
    if (nested.length > 0) return nested;
  }
  const code = issue.code === "too_big" || issue.code === "too_small" ? "outOfRange" : "shape";
  return [{ code, path, message: `${path || "The file"} ${wordsFor(issue)}.` }];
}

const depth = (issues: z.core.$ZodIssue[]): number => Math.max(0, ...issues.map((i) => i.path.length));

function wordsFor(issue: z.core.$ZodIssue): string {
  switch (issue.code) {
    case "invalid_type": {
      const missing = issue.input === undefined;
      return missing ? `is missing; it should be ${article(issue.expected)}` : `should be ${article(issue.expected)}`;
    }
    case "too_big":
      return issue.origin === "number" || issue.origin === "int"
        ? `must be at most ${issue.maximum}`
        : `is too long (at most ${issue.maximum})`;
    case "too_small":
      if (issue.origin === "number" || issue.origin === "int")
        return `must be ${issue.inclusive === false ? "above" : "at least"} ${issue.minimum}`;
      return `is too short (at least ${issue.minimum})`;
    case "invalid_value":
      return `must be one of: ${issue.values.map(String).join(", ")}`;
    case "custom":
      return issue.message;
    default:
      return issue.message.startsWith("is ") ? issue.message : `is not right: ${issue.message}`;
  }
}

const article = (kind: string): string =>
  kind === "array" || kind === "int" || kind === "object"
    ? `an ${kind === "array" ? "array (list)" : kind}`
    : `a ${kind}`;

type Located = { id: string; path: string };

function allIds(site: SiteFile): Located[] {
  const found: Located[] = [{ id: site.site.id, path: "site.id" }];
  const lists = {
    sources: site.sources,
    pocs: site.pocs,
    mainlines: site.mainlines,
    controllers: site.controllers,
    stations: site.stations,
    programs: site.programs,
    weatherInputs: site.weatherInputs ?? [],
    plans: site.plans ?? [],
  };
  const filesOf = (of: object, path: string): void => {
    ((of as { files?: { id: string }[] }).files ?? []).forEach((f, i) => {
      found.push({ id: f.id, path: `${path}files[${i}].id` });
    });
  };
  filesOf(site, "");
  filesOf(site.site, "site.");
  for (const [list, items] of Object.entries(lists))
    items.forEach((item, i) => {
      found.push({ id: item.id, path: `${list}[${i}].id` });
      filesOf(item, `${list}[${i}].`);
    });
  site.pocs.forEach((poc, i) => {
    poc.devices.forEach((d, j) => {
      found.push({ id: d.id, path: `pocs[${i}].devices[${j}].id` });
    });
  });
  site.mainlines.forEach((m, i) => {
    m.pipes.forEach((d, j) => {
      found.push({ id: d.id, path: `mainlines[${i}].pipes[${j}].id` });
    });
    (m.devices ?? []).forEach((d, j) => {
      found.push({ id: d.id, path: `mainlines[${i}].devices[${j}].id` });
    });
  });
  site.controllers.forEach((c, i) => {
    (c.wirePaths ?? []).forEach((w, j) => {
      found.push({ id: w.id, path: `controllers[${i}].wirePaths[${j}].id` });
    });
  });
  (site.wireReadings ?? []).forEach((r, i) => {
    found.push({ id: r.id, path: `wireReadings[${i}].id` });
  });
  return found;
}

function duplicateIds(site: SiteFile): FileProblem[] {
  const first = new Map<string, string>();
  const problems: FileProblem[] = [];
  for (const { id, path } of allIds(site)) {
    const earlier = first.get(id);
    if (earlier === undefined) first.set(id, path);
    else
      problems.push({
        code: "duplicateId",
        path,
        message: `${path} "${id}" is already used at ${earlier}. Every id is unique within the file; give one of them another.`,
      });
  }
  const days = (site.site.weatherPercents ?? []).map((w) => w.date);
  days.forEach((day, i) => {
    if (days.indexOf(day) < i)
      problems.push({
        code: "duplicateDate",
        path: `site.weatherPercents[${i}].date`,
        message: `site.weatherPercents[${i}].date ${day} has a percent already. Keep one of the two.`,
      });
  });
  return problems;
}

function brokenReferences(site: SiteFile): FileProblem[] {
  const problems: FileProblem[] = [];
  const ids = (items: { id: string }[]): Set<string> => new Set(items.map((i) => i.id));
  const sources = ids(site.sources);
  const feeds = new Set([...ids(site.pocs), ...ids(site.mainlines)]);
  const mainlines = ids(site.mainlines);
  const controllers = ids(site.controllers);
  const inputs = ids(site.weatherInputs ?? []);
  const stations = new Map(site.stations.map((s) => [s.id, s]));
  const need = (known: { has(id: string): boolean }, id: string, path: string, what: string): void => {
    if (!known.has(id))
      problems.push({
        code: "unknownReference",
        path,
        message: `${path} names "${id}", but there is no ${what} with that id.`,
      });
  };
  site.pocs.forEach((p, i) => {
    p.sourceIds.forEach((id, j) => {
      need(sources, id, `pocs[${i}].sourceIds[${j}]`, "source");
    });
  });
  site.mainlines.forEach((m, i) => {
    m.feedIds.forEach((id, j) => {
      need(feeds, id, `mainlines[${i}].feedIds[${j}]`, "point of connection or mainline");
    });
  });
  site.stations.forEach((s, i) => {
    need(controllers, s.controllerId, `stations[${i}].controllerId`, "controller");
    need(mainlines, s.mainlineId, `stations[${i}].mainlineId`, "mainline");
    (s.ignoresInputs ?? []).forEach((id, j) => {
      need(inputs, id, `stations[${i}].ignoresInputs[${j}]`, "weather input");
    });
  });
  (site.setRatios ?? []).forEach((r, i) => {
    r.stationIds.forEach((id, j) => {
      need(stations, id, `setRatios[${i}].stationIds[${j}]`, "station");
    });
  });
  const paths = new Map(site.controllers.flatMap((c) => (c.wirePaths ?? []).map((w) => [w.id, c.id] as const)));
  const needPath = (at: string, wirePathId: string | undefined, controllerId: string | undefined): void => {
    if (wirePathId === undefined) return;
    need(paths, wirePathId, `${at}.wirePathId`, "wire path");
    if (paths.has(wirePathId) && paths.get(wirePathId) !== controllerId)
      problems.push({
        code: "controllerMismatch",
        path: `${at}.wirePathId`,
        message: `${at}.wirePathId: that wire path leaves another controller than the one named. Choose a path of the same controller.`,
      });
  };
  const deviceReferences = (d: Device, at: string): void => {
    if (d.controllerId !== undefined) need(controllers, d.controllerId, `${at}.controllerId`, "controller");
    needPath(at, d.wirePathId, d.controllerId);
  };
  site.pocs.forEach((p, i) => {
    p.devices.forEach((d, j) => {
      deviceReferences(d, `pocs[${i}].devices[${j}]`);
    });
  });
  site.mainlines.forEach((m, i) => {
    m.pipes.forEach((d, j) => {
      deviceReferences(d, `mainlines[${i}].pipes[${j}]`);
    });
    (m.devices ?? []).forEach((d, j) => {
      deviceReferences(d, `mainlines[${i}].devices[${j}]`);
    });
  });
  site.stations.forEach((s, i) => {
    needPath(`stations[${i}]`, s.wirePathId, s.controllerId);
  });
  const known = new Set(allIds(site).map((l) => l.id));
  (site.positions ?? []).forEach((p, i) => {
    need(known, p.id, `positions[${i}].id`, "element");
  });
  (site.wireReadings ?? []).forEach((r, i) => {
    need(known, r.subjectId, `wireReadings[${i}].subjectId`, "station or device");
  });
  site.programs.forEach((p, i) => {
    need(controllers, p.controllerId, `programs[${i}].controllerId`, "controller");
    (p.onInputs ?? []).forEach((rule, j) => {
      need(inputs, rule.inputId, `programs[${i}].onInputs[${j}].inputId`, "weather input");
    });
    p.runs.forEach((run, j) => {
      const path = `programs[${i}].runs[${j}].stationId`;
      need(stations, run.stationId, path, "station");
      const station = stations.get(run.stationId);
      if (station && station.controllerId !== p.controllerId)
        problems.push({
          code: "controllerMismatch",
          path,
          message: `${path}: station "${station.name}" is wired to controller ${station.controllerId}, the program runs on ${p.controllerId}. Move one of them.`,
        });
    });
  });
  return problems;
}

function feedLoops(site: SiteFile): FileProblem[] {
  const byId = new Map(site.mainlines.map((m) => [m.id, m]));
  const state = new Map<string, "open" | "done">();
  const problems: FileProblem[] = [];
  const visit = (id: string, trail: string[]): void => {
    const mainline = byId.get(id);
    if (!mainline || state.get(id) === "done") return;
    if (state.get(id) === "open") {
      const loop = [...trail.slice(trail.indexOf(id)), id];
      const index = site.mainlines.findIndex((m) => m.id === id);
      problems.push({
        code: "feedLoop",
        path: `mainlines[${index}].feedIds`,
        message: `The feeds run in a circle: ${loop.join(" ← ")}. Feeds are one-way; remove one of them.`,
      });
      return;
    }
    state.set(id, "open");
    for (const feed of mainline.feedIds) visit(feed, [...trail, id]);
    state.set(id, "done");
  };
  for (const m of site.mainlines) visit(m.id, []);
  return problems;
}
