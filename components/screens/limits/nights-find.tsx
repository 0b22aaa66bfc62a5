"use client";
import { stationName } from "@/core/site-file/station-name";
import { useWorkspace } from "@/components/draft/site-draft";
import { useConventions } from "@/components/kit/conventions";
import { BROKEN_OUTLET_LPM } from "@/core/bench/faults/station-faults";
import type { StationSight } from "@/core/limits/sight";
import type { NightsFind } from "@/workers/compute.worker";

type Of = NightsFind[number];

/** What limits miss and the nights' readings find: how many outlets. */
export function NightsLine({ rows, nights }: { rows: readonly StationSight[]; nights: NightsFind | null }) {
  const { draft } = useWorkspace("draft");
  if (nights === null || nights.length === 0) return null;
  const outlet = new Map(draft.stations.map((s) => [s.id, BROKEN_OUTLET_LPM[s.emitter ?? "other"]]));
  const by = new Map(nights.map((f) => [f.stationId, f]));
  const unseen = rows.filter((r) => !r.fullest.seesOutlet && by.has(r.stationId));
  const found = (from: (f: Of) => number | null): number =>
    unseen.filter((r) => {
      const lpm = from(by.get(r.stationId) as Of);
      return lpm !== null && (outlet.get(r.stationId) ?? 0) >= lpm;
    }).length;
  return (
    <>
      Of the outlets unseen in the fullest set the night's readings name <strong>{found((f) => f.fromLpm)}</strong> of{" "}
      {unseen.length} the next morning, <strong>{found((f) => f.thirdLpm)}</strong> by the third.
    </>
  );
}

/** From which size on the nights' readings name a break of one station. */
export function NightsFindStation({ of }: { of: Of }) {
  const { draft } = useWorkspace("draft");
  const { quantity } = useConventions();
  const besides = of.besideIds.map((id) => stationName(draft, id));
  return (
    <p className="mt-2">
      {of.fromLpm === null ? (
        "The night's readings never tell it from another: run it apart once."
      ) : (
        <>
          What limits miss, the night's readings name: a break of <strong>{quantity(of.fromLpm, "flow")}</strong> and
          more the next morning{of.thirdLpm === null ? "" : <>, of {quantity(of.thirdLpm, "flow")} by the third</>}.
        </>
      )}
      {besides.length > 0 && ` It always runs with ${besides.join(" and ")}, and is named together with them.`}
    </p>
  );
}
