"use client";
import { patchStation } from "@/components/draft/patch-element";
import { useMemo } from "react";
import { useWorkspace } from "@/components/draft/site-draft";
import { useConventions } from "@/components/kit/conventions";
import { NumberField } from "@/components/kit/fields";
import { InspectorHead } from "@/components/kit/inspector";
import { Mark } from "@/components/kit/notice";
import { policyOfMain } from "@/core/judge/policy-of";
import type { StationSight } from "@/core/limits/sight";
import { waterworks } from "@/core/network/waterworks";
import type { Station } from "@/core/site-file/schema";
import type { NightsFind } from "@/workers/compute.worker";
import { NightsFindStation } from "./nights-find";

export type LimitKey = "highPercent" | "lowPercent";

/** What a station has where it has nothing of its own, and from where. */
export function useInherits(): (of: Station | undefined, key: LimitKey) => string {
  const { draft } = useWorkspace("draft");
  const w = useMemo(() => waterworks(draft), [draft]);
  return (of, key) => {
    const main = draft.mainlines.findIndex((m) => m.id === of?.mainlineId);
    if (main < 0) return `${draft.policy[key]} (site)`;
    const { policy, from } = policyOfMain(w, main);
    const id = from[key];
    const name = id === undefined ? "site" : [...draft.pocs, ...draft.mainlines].find((x) => x.id === id)?.name;
    return `${policy[key]} (${name ?? id})`;
  };
}

/** The chosen station's own limits, and what they see of it. */
export function StationLimits({
  station,
  sight,
  nights,
}: {
  station: Station;
  sight: StationSight;
  /** What the nights' readings would find of it; null while that is not known. */
  nights: NightsFind[number] | null;
}) {
  const { edit, canEdit } = useWorkspace("edit", "canEdit");
  const { quantity } = useConventions();
  const inherits = useInherits();
  const beside = sight.fullest.with.length - 1;
  const own = (label: string, key: LimitKey, max: number) => (
    <NumberField
      label={label}
      unit="%"
      value={station[key]}
      min={1}
      max={max}
      placeholder={inherits(station, key)}
      disabled={!canEdit}
      onCommit={(v) => edit(patchStation(station.id, { [key]: v }))}
    />
  );
  return (
    <section aria-label="Selected station" className="mb-4">
      <InspectorHead
        over="Selected"
        title={`${station.number} ${station.name}`}
        under={`expected ${quantity(sight.alone.expectedLpm, "flow")}`}
      />
      <div className="grid grid-cols-2 gap-2">
        {own("High, this one", "highPercent", 1000)}
        {own("Low, this one", "lowPercent", 100)}
      </div>
      {!sight.fullest.judged && (
        <p className="mt-2 text-warning">
          <Mark tone="caution" /> Nothing judges its flow: it is not watched, or not every connection of its system has
          a flow sensor. Limits do nothing here.
        </p>
      )}
      <p className="mt-2">
        Alone it trips above <strong>{quantity(sight.alone.highLpm, "flow")}</strong>, below{" "}
        <strong>{quantity(sight.alone.lowLpm, "flow")}</strong>.
      </p>
      <p>
        In the fullest set, with {beside} other{beside === 1 ? "" : "s"}: above{" "}
        {quantity(sight.fullest.highLpm, "flow")}, below {quantity(sight.fullest.lowLpm, "flow")};{" "}
        {sight.fullest.seesNeverOpens
          ? "its valve never opening would be seen."
          : "its valve never opening would pass unseen."}
      </p>
      {nights && <NightsFindStation of={nights} />}
    </section>
  );
}
