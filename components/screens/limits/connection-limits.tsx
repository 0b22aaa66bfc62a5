"use client";
import { Scroller } from "@/components/kit/scroller";
import { Figure } from "@/components/draft/figure";
import { patchPoc } from "@/components/draft/patch-element";
import { useWorkspace } from "@/components/draft/site-draft";
import { ChoiceField } from "@/components/kit/fields";
import { Table } from "@/components/kit/table";
import { RESPONSES } from "@/components/words/response-words";
import type { Patch } from "@/core/site-file/patch";
import type { Poc } from "@/core/site-file/schema";
import { unitLabel } from "@/core/units/units";

/** Seconds that each lasts before it counts, where nothing is entered (handbook#8-limits). */
const [USUAL_BURST_S, USUAL_OFF_SCHEDULE_S] = [15, 120];

/** What is judged at each connection whatever runs: a burst at once, and flow while nothing is scheduled. */
export function ConnectionLimits() {
  const { draft, units } = useWorkspace("draft", "units");
  if (draft.pocs.length === 0) return null;
  return (
    <section aria-label="Burst and off-schedule flow">
      <h3 className="mt-4 text-lg">Burst and off-schedule flow</h3>
      <p className="max-w-prose text-sm text-faint">
        A burst is judged without hold-off. Off-schedule flow is judged while nothing runs; hand-watering hours are
        allowed for.
      </p>
      <Scroller>
        <Table aria-label="Burst and off-schedule flow">
          <thead>
            <tr>
              <th>Connection</th>
              <th className="text-right">Burst over, {unitLabel("flow", units)}</th>
              <th className="text-right">for, s</th>
              <th>then</th>
              <th className="text-right">Off schedule over, {unitLabel("flow", units)}</th>
              <th className="text-right">for, s</th>
              <th>then</th>
            </tr>
          </thead>
          <tbody>
            {draft.pocs.map((poc) => (
              <ConnectionRow key={poc.id} poc={poc} />
            ))}
          </tbody>
        </Table>
      </Scroller>
    </section>
  );
}

function ConnectionRow({ poc }: { poc: Poc }) {
  const { edit, canEdit } = useWorkspace("edit", "canEdit");
  const put = (values: Patch<Poc>): void => edit(patchPoc(poc.id, values));
  const seconds = (at: "burstPersistenceS" | "offSchedulePersistenceS", label: string, usual: number) => (
    <td className="w-24">
      <Figure
        of={poc}
        at={at}
        put={put}
        label={`${label} of ${poc.name}`}
        hideLabel
        unit="s"
        min={0}
        max={86_400}
        whole
        whenEmpty={usual}
      />
    </td>
  );
  const limit = (at: "burstLimitLpm" | "offScheduleLimitLpm", label: string, none: string) => (
    <td className="w-36">
      <Figure
        of={poc}
        at={at}
        put={put}
        label={`${label} of ${poc.name}`}
        hideLabel
        quantity="flow"
        placeholder={none}
      />
    </td>
  );
  const response = (at: "burstResponse" | "offScheduleResponse", label: string, usual: Poc["burstResponse"]) => (
    <td className="w-44">
      <ChoiceField
        label={`${label} of ${poc.name}`}
        hideLabel
        value={poc[at] ?? usual ?? "notify"}
        options={RESPONSES}
        disabled={!canEdit}
        onCommit={(v) => put({ [at]: v })}
      />
    </td>
  );
  return (
    <tr>
      <td className="font-semibold">{poc.name}</td>
      {limit("burstLimitLpm", "Burst limit", "none")}
      {seconds("burstPersistenceS", "Burst delay", USUAL_BURST_S)}
      {response("burstResponse", "Response to a burst", "stopAll")}
      {limit("offScheduleLimitLpm", "Off-schedule limit", "sensor's least")}
      {seconds("offSchedulePersistenceS", "Off-schedule delay", USUAL_OFF_SCHEDULE_S)}
      {response("offScheduleResponse", "Response to off-schedule flow", "notify")}
    </tr>
  );
}
