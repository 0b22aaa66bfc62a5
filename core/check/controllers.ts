import { nth } from "../checked.ts";
import { weekMinutes } from "../calendar/week-grid.ts";
import { type Draws, drawsOn, isUnlinked } from "../dispatch/capacity.ts";
import type { Waterworks } from "../network/waterworks.ts";
import type { Controller, SiteFile, WaterWindow } from "../site-file/schema.ts";
import { addressConflicts, type Wired, wiredThings } from "../wiring/addresses.ts";
import { controllerLoad } from "../wiring/load.ts";
import { wireState } from "../wiring/wire-reading.ts";
import { type Finding, finding } from "./finding.ts";

/** Controllers among themselves, and what hangs on their wires. */
export function checkControllers(w: Waterworks): Finding[] {
  return [...unlinkedPairs(w), ...wires(w.site)];
}

/** What two controllers that know nothing of each other both draw on, in words; null when nothing. */
function shared(w: Waterworks, a: Draws, b: Draws): string | null {
  const both = (kind: keyof Draws, list: { name: string }[]): string | undefined =>
    [...a[kind]].filter((i) => b[kind].has(i)).map((i) => list[i]?.name)[0];
  return both("mainline", w.site.mainlines) ?? both("poc", w.site.pocs) ?? both("source", w.site.sources) ?? null;
}

function unlinkedPairs(w: Waterworks): Finding[] {
  const { controllers } = w.site;
  const draws = controllers.map((_, c) => drawsOn(w, c));
  const found: Finding[] = [];
  const settled = (c: Controller): boolean => c.unlinkedShare !== undefined || c.unlinkedHours !== undefined;
  controllers.forEach((a, i) => {
    controllers.forEach((b, j) => {
      if (j <= i || (!isUnlinked(a) && !isUnlinked(b))) return;
      const on = shared(w, nth(draws, i), nth(draws, j));
      if (on === null) return;
      const loose = [i, j].find((k) => {
        const c = controllers[k];
        return c && isUnlinked(c) && !settled(c);
      });
      if (loose !== undefined) {
        const c = nth(controllers, loose);
        found.push(
          finding(
            "warning",
            "unlinkedWithoutShare",
            `controllers[${loose}]`,
            c.id,
            `${a.name} and ${b.name} both draw on ${on} and do not know of each other. Give ${c.name} a fixed share of the ceiling or hours of its own, or link them.`,
          ),
        );
      } else if (
        a.unlinkedHours &&
        b.unlinkedHours &&
        a.unlinkedShare === undefined &&
        b.unlinkedShare === undefined &&
        overlaps(a.unlinkedHours, b.unlinkedHours)
      )
        found.push(
          finding(
            "error",
            "unlinkedHoursOverlap",
            `controllers[${j}].unlinkedHours`,
            b.id,
            `${a.name} and ${b.name} both draw on ${on}, and their own hours overlap. Part the hours.`,
          ),
        );
    });
  });
  const { mainlines, pocs, sources } = w.site;
  for (const [kind, elements] of [
    ["mainline", mainlines],
    ["poc", pocs],
    ["source", sources],
  ] as const)
    elements.forEach((e, n) => {
      const on = controllers.flatMap((c, i) =>
        c.unlinkedShare !== undefined && draws[i]?.[kind].has(n) ? [{ c, i }] : [],
      );
      const total = on.reduce((sum, { c }) => sum + (c.unlinkedShare ?? 0), 0);
      const last = on[on.length - 1];
      if (last && total > 1 + 1e-9)
        found.push(
          finding(
            "error",
            "unlinkedSharesAboveOne",
            `controllers[${last.i}].unlinkedShare`,
            last.c.id,
            `${on.map(({ c }) => c.name).join(" and ")} together have ${Math.round(total * 100)} % of ${e.name}. Shares of one ceiling sum to 100 % at most.`,
          ),
        );
    });
  return found;
}

function overlaps(a: WaterWindow[], b: WaterWindow[]): boolean {
  const mine = weekMinutes(a);
  return weekMinutes(b).some((held, minute) => held === 1 && mine[minute] === 1);
}

function wires(site: SiteFile): Finding[] {
  const things = wiredThings(site);
  return [
    ...addressConflicts(things).map((c) => {
      const [field, word] = c.code === "addressTwice" ? ["address", "Address"] : ["serial", "Serial number"];
      return finding(
        "error",
        c.code,
        `${c.second.path}.${field}`,
        c.second.id,
        `${word} ${c.value} is on ${c.first.label} and again on ${c.second.label}. Both would answer; give one its own.`,
      );
    }),
    ...site.controllers.flatMap((c, i) => {
      const mine = things.filter((t) => t.controllerId === c.id);
      return [...overCurrent(site, i), ...(c.powered === "battery" ? coilsOnBattery(c, mine) : [])];
    }),
    ...site.controllers.flatMap((c) =>
      c.powered === "mains"
        ? coilsOnMains(
            c,
            things.filter((t) => t.controllerId === c.id),
          )
        : [],
    ),
    ...things.flatMap((t) => wireReading(site, t)),
  ];
}

/** The first three by name. */
const firstThree = (things: readonly Wired[]): string =>
  things
    .slice(0, 3)
    .map((t) => t.label)
    .join(", ");

function overCurrent(site: SiteFile, index: number): Finding[] {
  const c = site.controllers[index];
  if (!c) return [];
  const load = controllerLoad(site, c);
  if (load.budgetMa === null || load.totalMa <= load.budgetMa + 1e-9) return [];
  return [
    finding(
      "warning",
      "overCurrent",
      `controllers[${index}].budgetMa`,
      c.id,
      `${c.name} may have to hold ${Math.round(load.totalMa)} mA (${load.stationsAtOnce} station${load.stationsAtOnce === 1 ? "" : "s"} at once, master valves and pump relays with them${load.typical ? "; some at typical figures" : ""}); it gives ${load.budgetMa} mA. Let fewer run at once.`,
    ),
  ];
}

/** A battery moves latching coils only. */
function coilsOnBattery(c: Controller, mine: readonly Wired[]): Finding[] {
  const found: Finding[] = [];
  const ac = mine.filter((t) => t.coil === "ac24");
  if (ac.length > 0)
    found.push(
      finding(
        "error",
        "acOnBattery",
        ac[0]?.path ?? "",
        ac[0]?.id ?? c.id,
        `${c.name} runs on a battery and drives latching DC coils only; ${firstThree(ac)}${ac.length > 3 ? ` and ${ac.length - 3} more` : ""} ${ac.length === 1 ? "has a 24 V AC coil" : "have 24 V AC coils"} and would never open.`,
      ),
    );
  const unknown = mine.filter((t) => t.coil === null && (t.kind === "station" || t.kind === "masterValve"));
  if (unknown.length > 0)
    found.push(
      finding(
        "note",
        "coilUnknown",
        unknown[0]?.path ?? "",
        c.id,
        `${c.name} runs on a battery; the coils of ${unknown.length} valve${unknown.length === 1 ? "" : "s"} on it are not recorded. They must be latching DC.`,
      ),
    );
  return found;
}

/** Alternating current does not move latching coils. */
function coilsOnMains(c: Controller, mine: readonly Wired[]): Finding[] {
  const latching = mine.filter((t) => t.coil === "dcLatching");
  if (latching.length === 0) return [];
  return [
    finding(
      "warning",
      "latchingOnMains",
      latching[0]?.path ?? "",
      latching[0]?.id ?? c.id,
      `${c.name} gives 24 V AC; ${firstThree(latching)} ${latching.length === 1 ? "has a latching DC coil" : "have latching DC coils"}, which AC does not move.`,
    ),
  ];
}

/** A resistance that is not what coil and wire should have. */
function wireReading(site: SiteFile, t: Wired): Finding[] {
  const onBattery = site.controllers.find((c) => c.id === t.controllerId)?.powered === "battery";
  const state = wireState(site, t.id, t.coil ?? (onBattery ? "dcLatching" : "ac24"));
  if (!state || (state.meaning === "good" && !state.runHigh)) return [];
  const words = {
    short: "a short: coil or wire",
    open: "an open circuit: cut wire, bad splice or burnt coil",
    high: "too high: a corroded splice or a long thin run",
    good: `good, but its wire run takes ${Math.round(state.runOhm ?? 0)} Ω: look for a bad splice`,
  }[state.meaning];
  return [finding("warning", "wireReading", t.path, t.id, `${t.label}: its last resistance reading is ${words}.`)];
}
