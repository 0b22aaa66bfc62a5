import type { SiteFile } from "../../site-file/schema.ts";
import type { Quantity } from "../../units/units.ts";

/** What a fault can be dropped on. */
export type SubjectKind = "station" | "source" | "poc" | "mainline" | "pump" | "flowSensor" | "masterValve";

/** What a fault does on the bench: the plant and its sensors ask for these, never for a kind. Figures are the fault's size. */
export type FaultEffect = {
  /** Water out of the station's pipes besides its own flow, L/min. */
  leaks?: true;
  /** Share of the station's own flow that is gone. */
  throttles?: true;
  /** A valve that does not close once open; one that does not open. */
  staysOpen?: true;
  staysShut?: true;
  /** Opens the valve of `otherId`: in place of its own, or besides. */
  opensOther?: "instead" | "also";
  /** Draws from a main or at a connection, L/min: lost, or taken by hand. */
  draws?: "lost" | "byHand";
  closesSupply?: true;
  /** Takes from the supply's pressure, kPa. */
  dropsPressure?: true;
  stopsPump?: true;
  holdsMasterValve?: true;
  /** The sensor tells nothing; swings by L/min; tells all by one factor. */
  silences?: true;
  jitters?: true;
  scales?: true;
};

/** Its size: what it is, in which unit it is shown, how much is usual. */
export type FaultSize = {
  label: string;
  quantity: Quantity | null;
  /** Where it is no quantity. */
  unit: string;
  max: number;
  usual: (site: SiteFile, subjectId: string) => number;
};

/** All that differs from one kind of fault to another (handbook#9-bench). A new kind is one of these, in a file of its own. */
export type FaultSpec = {
  words: string;
  subjects: SubjectKind[];
  /** Null where there is nothing to size. */
  size: FaultSize | null;
  effect: FaultEffect;
  /** Who is rightly shut off or named. A main's fault also shows while other stations run. */
  blame: "station" | "main" | "supply" | "sensor";
  /** Does nothing while its station is shut. */
  onlyWhenCalled: boolean;
  /** On what a sweep drops it, and a drill hides it; null: not at all. */
  swept: SubjectKind | null;
  drilled: SubjectKind | null;
};
