import { nth } from "../checked.ts";
import type { EpochS } from "../dates/wall-time.ts";
import type { Waterworks } from "../network/waterworks.ts";
import type { Cause } from "./causes.ts";

/** What a controller told, as far as it says why a station runs. */
export type ToldEvent = { at: EpochS; type: string; subjectId: string; reason: string };
/** Why a station runs. `programId`: of the site's programs; null where it is none of them. */
export type Why = { cause: Extract<Cause, "scheduled" | "byHand" | "learning" | "broken">; programId: string | null };

/** A controller names the program that opens a station, and which cycle of it this is. */
const OPENED_BY = /^(.*), cycle \d+$/;

/** Why each station runs, by the events of its controllers in their order: of a program, by hand, to be learned, or in search of a break. */
export class Running {
  private readonly w: Waterworks;
  private readonly opened = new Map<string, Why>();
  private readonly tested = new Set<string>();
  private learning = false;

  constructor(w: Waterworks) {
    this.w = w;
  }

  tell({ type, subjectId, reason }: ToldEvent): void {
    switch (type) {
      case "open":
        this.opened.set(subjectId, this.byProgram(subjectId, reason));
        return;
      case "close":
        this.opened.delete(subjectId);
        return;
      case "test":
        this.tested.add(subjectId);
        return;
      case "testEnds":
        this.tested.delete(subjectId);
        return;
      case "learnBegins":
        this.learning = true;
        return;
      case "learnEnds":
        this.learning = false;
        return;
      default:
    }
  }

  /** Why a station that is open runs. One of which nothing was told, as in a log, is taken for its program's, where it has one only. */
  why(stationId: string): Why {
    if (this.tested.has(stationId)) return { cause: "broken", programId: null };
    const told = this.opened.get(stationId);
    if (told) return told;
    return this.learning ? { cause: "learning", programId: null } : this.byItsOnlyProgram(stationId);
  }

  private byProgram(stationId: string, reason: string): Why {
    const name = OPENED_BY.exec(reason)?.[1] ?? "";
    const controllerId = this.w.site.stations.find((s) => s.id === stationId)?.controllerId;
    const called = this.w.site.programs.filter((p) => p.name === name);
    const program = called.find((p) => p.controllerId === controllerId) ?? called[0];
    return program ? { cause: "scheduled", programId: program.id } : { cause: "byHand", programId: null };
  }

  private byItsOnlyProgram(stationId: string): Why {
    const all = this.w.site.programs.filter((p) => p.runs.some((r) => r.stationId === stationId && r.minutes > 0));
    return { cause: "scheduled", programId: all.length === 1 ? nth(all, 0).id : null };
  }
}
