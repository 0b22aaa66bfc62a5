import { got } from "../checked.ts";
import type { Stretch } from "./stretches.ts";

/** Stations by place that always run together in these stretches, and so cannot be told from each other; singles are groups of one. */
export function neverApart(stretches: readonly Stretch[]): number[][] {
  const seen = new Map<number, number[]>();
  stretches.forEach((stretch, i) => {
    for (const s of stretch.set) {
      const list = seen.get(s) ?? [];
      list.push(i);
      seen.set(s, list);
    }
  });
  const places = [...seen.keys()].sort((a, b) => a - b);
  return alike(places, (s) => got(seen, s).join());
}

/** Things in groups of those with equal columns: they cannot be told from each other. */
export function alike<T>(things: readonly T[], column: (of: T) => string): T[][] {
  const groups = new Map<string, T[]>();
  for (const thing of things) {
    const key = column(thing);
    const group = groups.get(key) ?? [];
    group.push(thing);
    groups.set(key, group);
  }
  return [...groups.values()];
}
