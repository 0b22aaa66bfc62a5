import type { EpochS } from "../dates/wall-time.ts";
import type { Waterworks } from "../network/waterworks.ts";
import type { ActiveFaults } from "./faults/active.ts";
import { faultSpec } from "./faults/kinds.ts";

const VALVE_OPENS_S = 6;
const VALVE_CLOSES_S = 8;

/** The stations' valves on the ground: how far each stands open, as it is called and as faults let it. */
export class Valves {
  /** By place of the station, 0 to 1; a shut one is not in it. */
  readonly opening = new Map<number, number>();
  /** Counts how often a valve began to open or was shut. */
  turned = 0;
  private readonly w: Waterworks;
  private readonly faults: ActiveFaults;
  /** Valves open and shut within the second. */
  private readonly exact: boolean;

  constructor(w: Waterworks, faults: ActiveFaults, exact: boolean) {
    this.w = w;
    this.faults = faults;
    this.exact = exact;
  }

  /** Valves that open for the stations called: their own, unless wires go elsewhere. */
  private valvesOf(stations: ReadonlySet<number>, t: EpochS): ReadonlySet<number> {
    if (!this.faults.all.some((f) => f.otherId !== undefined)) return stations;
    return new Set(
      [...stations].flatMap((s) => {
        const id = this.w.site.stations[s]?.id;
        const wired = this.faults.doing("opensOther", t).filter((f) => f.subjectId === id);
        const others = (how: "instead" | "also"): number[] =>
          wired
            .filter((f) => faultSpec(f.kind).effect.opensOther === how)
            .flatMap((f) => this.w.stationIndex.get(f.otherId ?? "") ?? []);
        const wrong = others("instead");
        return wrong.length > 0 ? wrong : [s, ...others("also")];
      }),
    );
  }

  /**
   * Moves them for the second from `t`.
   *
   * @returns whether any moved
   */
  move(t: EpochS, stations: ReadonlySet<number>): boolean {
    let moved = false;
    const called = this.valvesOf(stations, t);
    for (const s of called)
      if (!this.opening.has(s)) {
        this.opening.set(s, 0);
        this.turned++;
        moved = true;
      }
    for (const [s, share] of this.opening) {
      const id = this.w.site.stations[s]?.id;
      const wanted = called.has(s) || (share > 0 && this.faults.on("staysOpen", id, t) !== undefined);
      const byAndBy = wanted ? Math.min(1, share + 1 / VALVE_OPENS_S) : Math.max(0, share - 1 / VALVE_CLOSES_S);
      let next = this.exact ? Number(wanted) : byAndBy;
      if (this.faults.on("staysShut", id, t)) next = 0;
      if (next === 0 && !wanted) {
        this.opening.delete(s);
        this.turned++;
        moved = true;
      } else if (next !== share) {
        this.opening.set(s, next);
        moved = true;
      }
    }
    return moved;
  }
}
