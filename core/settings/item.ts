import type { SiteFile } from "../site-file/schema.ts";
import type { ControllerSettings } from "./settings-of.ts";

/** `programs[p1].runs[s4]` → ["programs", "[p1]", "runs", "[s4]"]; an id may hold anything but `]`. */
function stepsOf(path: string): string[] {
  return path.match(/\[[^\]]*\]|[^.[\]]+/g) ?? [];
}

type Node = Record<string, unknown>;
/** An element's own id, or of a run its station's. */
const isOf = (item: unknown, id: string): boolean => {
  const { id: own, stationId } = item as { id?: string; stationId?: string };
  return (own ?? stationId) === id;
};

/**
 * One item of settings (its path as {@link compareSettings} gives it) as another holds it, all else as it is. What is not there is gone here too; what is new goes where it
 * stands there.
 *
 * @returns null where the path leads nowhere in `into`
 */
export function withItem<T extends SiteFile>(into: T, from: ControllerSettings, path: string): T | null {
  const next = structuredClone(into);
  const steps = stepsOf(path);
  const last = steps.pop();
  if (last === undefined) return null;
  let [at, other]: (Node | unknown[] | undefined)[] = [next as Node, from as unknown as Node];
  for (const step of steps) {
    at = stepInto(at, step);
    other = stepInto(other, step);
    if (at === undefined) return null;
  }
  if (!last.startsWith("[")) {
    const value = (other as Node | undefined)?.[last];
    if (value === undefined) delete (at as Node)[last];
    else (at as Node)[last] = orderedAs(structuredClone(value), (at as Node)[last], last);
    settle(at as Node, last);
    return next;
  }
  if (!Array.isArray(at)) return null;
  const id = last.slice(1, -1);
  const theirs = Array.isArray(other) ? other.filter((x) => isOf(x, id)) : [];
  const place = at.findIndex((x) => isOf(x, id));
  const rest = at.filter((x) => !isOf(x, id));
  const before = Array.isArray(other) ? other.findIndex((x) => isOf(x, id)) : rest.length;
  rest.splice(place < 0 ? Math.min(before, rest.length) : place, 0, ...structuredClone(theirs));
  at.splice(0, at.length, ...rest);
  return next;
}

function stepInto(at: Node | unknown[] | undefined, step: string): Node | unknown[] | undefined {
  if (at === undefined) return undefined;
  if (!step.startsWith("[")) return (at as Node)[step] as Node | undefined;
  return Array.isArray(at) ? (at.find((x) => isOf(x, step.slice(1, -1))) as Node | undefined) : undefined;
}

/** Another order of elements: ours in their order; those that they do not have keep their places behind them. */
function orderedAs(theirs: unknown, ours: unknown, key: string): unknown {
  if (!["programs", "stations", "pocs", "mainlines", "sources", "controllers"].includes(key)) return theirs;
  const order = (theirs as { id: string }[]).map((x) => x.id);
  const place = (x: { id: string }): number => {
    const at = order.indexOf(x.id);
    return at < 0 ? order.length : at;
  };
  return [...(ours as { id: string }[])].sort((a, b) => place(a) - place(b));
}

/** What goes with a figure: a flow that is taken is the one used, and a ceiling has its reason. */
function settle(at: Node, key: string): void {
  if (key === "enteredFlowLpm" && at[key] !== undefined) at["expectedFrom"] = "entered";
  if (key === "ceilingLpm" && at[key] !== undefined) at["ceilingReason"] ??= "as the controller holds it";
}
