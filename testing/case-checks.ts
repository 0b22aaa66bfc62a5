import { expect } from "vitest";

/** One check of a worked case's expected.json; what each key means is in cases/README.md. */
export type CaseCheck = Record<string, unknown> & { path?: string };

/** `a.b[id=x].c[0]` → the value there. */
export function valueAt(document: unknown, path: string): unknown {
  let value: unknown = document;
  for (const part of path.match(/[^.[\]]+|\[[^\]]*\]/g) ?? []) {
    if (value === undefined || value === null) return undefined;
    if (!part.startsWith("[")) value = (value as Record<string, unknown>)[part];
    else {
      const inner = part.slice(1, -1);
      const split = inner.indexOf("=");
      value =
        split < 0
          ? (value as unknown[])[Number(inner)]
          : (value as Record<string, unknown>[]).find(
              (x) => String(x[inner.slice(0, split)]) === inner.slice(split + 1),
            );
    }
  }
  return value;
}

const seconds = (iso: unknown): number => Date.parse(String(iso)) / 1000;
const matches = (entry: Record<string, unknown>, wanted: Record<string, unknown>): boolean =>
  Object.entries(wanted).every(([k, v]) => JSON.stringify(entry[k]) === JSON.stringify(v));

export function applyCheck(document: unknown, check: CaseCheck): void {
  const path = check.path as string;
  const value = valueAt(document, path);
  const list = value as Record<string, unknown>[];
  const tolerance = (near: number): number =>
    Math.max(Number(check["abs"] ?? 0), Math.abs(near) * Number(check["rel"] ?? 0)) + 1e-12;
  const close = (actual: unknown, near: number): void => {
    expect(typeof actual, path).toBe("number");
    expect(Math.abs((actual as number) - near), `${path}: ${actual} should be near ${near}`).toBeLessThanOrEqual(
      tolerance(near),
    );
  };
  const known = new Set<string>();
  const on = (key: string, test: (wanted: never) => void): void => {
    if (!(key in check)) return;
    known.add(key);
    test(check[key] as never);
  };
  on("equals", (x) => {
    expect(value, path).toEqual(x);
  });
  on("in", (x: unknown[]) => {
    expect(x, path).toContainEqual(value);
  });
  on("near", (x: number) => {
    close(value, x);
  });
  on("between", ([lo, hi]: [number, number]) => {
    expect(value, path).toBeGreaterThanOrEqual(lo);
    expect(value, path).toBeLessThanOrEqual(hi);
  });
  on("time", (x: string) => {
    expect(Math.abs(seconds(value) - seconds(x)), path).toBeLessThanOrEqual(Number(check["toleranceS"] ?? 0));
  });
  on("contains", (x: string) => {
    expect(JSON.stringify(value), path).toContain(x);
  });
  on("nonEmpty", () => {
    expect((value as string | unknown[] | undefined)?.length ?? 0, path).toBeGreaterThan(0);
  });
  on("isEmpty", () => {
    expect((value as string | unknown[]).length, path).toBe(0);
  });
  on("lengthAtLeast", (x: number) => {
    expect((value as unknown[]).length, path).toBeGreaterThanOrEqual(x);
  });
  on("hasEntry", (x: Record<string, unknown>) => {
    expect(
      list.some((e) => matches(e, x)),
      `${path} has ${JSON.stringify(x)}`,
    ).toBe(true);
  });
  on("countOf", (x: Record<string, unknown>) => {
    expect(list.filter((e) => matches(e, x)).length, path).toBe(check["count"]);
  });
  on("setEquals", (x: unknown[]) => {
    expect([...list].sort(), path).toEqual([...x].sort());
  });
  on("setIn", (x: unknown[][]) => {
    expect(
      x.map((s) => [...s].sort()),
      path,
    ).toContainEqual([...list].sort());
  });
  on("subsetOf", (x: unknown[]) => {
    for (const v of list) expect(x, path).toContainEqual(v);
  });
  on("map", (x: { key: string; value: string; is: Record<string, number | [number, number]>; ignoreBelow: number }) => {
    const sums: Record<string, number> = {};
    for (const e of list) sums[String(e[x.key])] = (sums[String(e[x.key])] ?? 0) + Number(e[x.value]);
    for (const [key, wanted] of Object.entries(x.is)) {
      if (Array.isArray(wanted)) {
        expect(sums[key] ?? 0, `${path} ${key}`).toBeGreaterThanOrEqual(wanted[0]);
        expect(sums[key] ?? 0, `${path} ${key}`).toBeLessThanOrEqual(wanted[1]);
      } else close(sums[key] ?? 0, wanted);
    }
    for (const [key, sum] of Object.entries(sums))
      if (!(key in x.is)) expect(sum, `${path} ${key}`).toBeLessThanOrEqual(x.ignoreBelow);
  });
  on("runsAre", (x: [string, string, string, string][]) => {
    const slack = Number(check["toleranceS"] ?? 0);
    expect(list.length, path).toBe(x.length);
    for (const [s, p, from, to] of x)
      expect(
        list.some(
          (r) =>
            r["stationId"] === s &&
            r["programId"] === p &&
            Math.abs(seconds(r["start"]) - seconds(from)) <= slack &&
            Math.abs(seconds(r["end"]) - seconds(to)) <= slack,
        ),
        `${s} ${p} ${from} ${to} in ${JSON.stringify(list)}`,
      ).toBe(true);
  });
  on("lastEnd", (x: string) => {
    expect(Math.abs(Math.max(...list.map((r) => seconds(r["end"]))) - seconds(x)), path).toBeLessThanOrEqual(
      Number(check["toleranceS"] ?? 0),
    );
  });
  on("sequence", (x: Record<string, unknown>[]) => {
    const once = list.filter(
      (a, i) => i === 0 || a["kind"] !== list[i - 1]?.["kind"] || a["subjectId"] !== list[i - 1]?.["subjectId"],
    );
    if (check["prefix"] !== true) expect(once.length, JSON.stringify(once)).toBe(x.length);
    x.forEach((wanted, i) => {
      const got = once[i] as Record<string, unknown>;
      for (const [key, w] of Object.entries(wanted)) {
        if (key === "at") {
          const [lo, hi] = w as [string, string];
          expect(seconds(got["at"]), `${path}[${i}].at ${got["at"]}`).toBeGreaterThanOrEqual(seconds(lo));
          expect(seconds(got["at"]), `${path}[${i}].at ${got["at"]}`).toBeLessThanOrEqual(seconds(hi));
        } else if (key.endsWith("Lpm"))
          expect(Math.abs(Number(got[key]) - Number(w)), `${path}[${i}].${key}`).toBeLessThanOrEqual(0.5);
        else expect(got[key], `${path}[${i}].${key}`).toEqual(w);
      }
    });
  });
  if (known.size === 0) throw new Error(`no known check in ${JSON.stringify(check)}`);
}
