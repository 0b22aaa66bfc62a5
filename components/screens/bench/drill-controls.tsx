"use client";
import { Droplet, Minus } from "lucide-react";
import { Mark } from "@/components/kit/notice";
import { Button } from "@/components/kit/button";
import { useState } from "react";
import { ChoiceField } from "@/components/kit/fields";
import { subjectName } from "@/core/judge/alarm-words";
import { faultWords } from "@/core/bench/faults/kinds";
import type { Drill } from "@/core/drill/drill";
import { type Cause, type Check, type Standing, TAKES_S } from "@/core/drill/drill-bench";
import type { SiteFile } from "@/core/site-file/schema";

type Props = {
  drill: Drill;
  site: SiteFile;
  standing: Standing;
  disabled: boolean;
  onStanding: (standing: Standing) => void;
  onCheck: (check: Check) => void;
  onName: (kind: Cause["kind"], subjectId: string) => void;
};
const minutes = (s: number): string => `${Math.round(s / 60)} min`;

/** What can be opened, shut and asked on the bench; and naming the cause. */
export function DrillControls({ drill: { bench }, site, standing, disabled, onStanding, onCheck, onName }: Props) {
  const places = [...bench.pocs, ...bench.mainlines, ...bench.stations.map((s) => s.id)];
  const [pocId, setPocId] = useState(bench.pocs[0] ?? "");
  const [place, setPlace] = useState(bench.stations[0]?.id ?? "");
  const kinds = [...new Set(bench.causes().map((c) => c.kind))];
  const [kind, setKind] = useState<Cause["kind"]>(kinds[0] ?? "brokenLateral");
  const subjects = bench
    .causes()
    .flatMap((c) => (c.kind === kind ? [[c.subjectId, subjectName(site, c.subjectId)] as const] : []));
  const [subject, setSubject] = useState(subjects[0]?.[0] ?? "");
  const subjectId = subjects.some(([id]) => id === subject) ? subject : (subjects[0]?.[0] ?? "");
  const turn = (key: keyof Standing, id: string): void =>
    onStanding({
      ...standing,
      [key]: standing[key].includes(id) ? standing[key].filter((x) => x !== id) : [...standing[key], id],
    });
  return (
    <div className="min-w-0 space-y-3">
      <h3 className="text-lg">What stands open</h3>
      {bench.masterValves.length > 0 && (
        <Switches
          on={standing.valves}
          ids={bench.masterValves}
          label="Master valves"
          site={site}
          onTurn={(id) => turn("valves", id)}
        />
      )}
      {bench.pumps.length > 0 && (
        <Switches on={standing.pumps} ids={bench.pumps} label="Pumps" site={site} onTurn={(id) => turn("pumps", id)} />
      )}
      {standing.pumps.length > 0 && standing.open.length === 0 && (
        <p className="text-warning text-sm">
          <Mark tone="caution" /> A pump must not run against a closed valve; water in it can reach scalding heat.
        </p>
      )}
      <div className="max-h-56 overflow-y-auto border-y border-base-300 py-1">
        <Switches
          on={standing.open}
          ids={bench.stations.map((s) => s.id)}
          label="Stations"
          site={site}
          onTurn={(id) => turn("open", id)}
        />
      </div>
      <Button onClick={() => onStanding({ open: [], valves: [], pumps: [] })}>Shut everything</Button>

      <h3 className="text-lg">Ask</h3>
      <div className="flex flex-wrap items-end gap-3">
        <Button disabled={disabled} onClick={() => onCheck({ type: "read" })}>
          Read the sensors, {minutes(TAKES_S.read)}
        </Button>
        <div className="w-48">
          <ChoiceField
            label="At"
            value={pocId}
            options={bench.pocs.map((id) => [id, subjectName(site, id)] as const)}
            onCommit={setPocId}
          />
        </div>
        <Button disabled={disabled} onClick={() => onCheck({ type: "meter", pocId })}>
          Time the meter, {minutes(TAKES_S.meter)}
        </Button>
        <Button disabled={disabled} onClick={() => onCheck({ type: "gauge", pocId })}>
          Read a gauge, {minutes(TAKES_S.gauge)}
        </Button>
      </div>
      <div className="flex flex-wrap items-end gap-3">
        <div className="w-64">
          <ChoiceField
            label="Place"
            value={place}
            options={places.map((id) => [id, subjectName(site, id)] as const)}
            onCommit={setPlace}
          />
        </div>
        <Button disabled={disabled} onClick={() => onCheck({ type: "look", subjectId: place })}>
          Go and look, {minutes(TAKES_S.look)}
        </Button>
      </div>

      <form
        className="flex flex-wrap items-end gap-3 border-t border-base-300 pt-2"
        aria-label="Name the cause"
        onSubmit={(e) => {
          e.preventDefault();
          onName(kind, subjectId);
        }}
      >
        <div className="w-56">
          <ChoiceField
            label="It is"
            value={kind}
            options={kinds.map((k) => [k, faultWords(k)] as const)}
            onCommit={setKind}
          />
        </div>
        <div className="w-64">
          <ChoiceField label="on" value={subjectId} options={subjects} onCommit={setSubject} />
        </div>
        <Button rank="main" type="submit" disabled={disabled}>
          Name it
        </Button>
      </form>
    </div>
  );
}

function Switches({
  on,
  ids,
  label,
  site,
  onTurn,
}: {
  on: readonly string[];
  ids: readonly string[];
  label: string;
  site: SiteFile;
  onTurn: (id: string) => void;
}) {
  return (
    <fieldset aria-label={label}>
      <legend className="text-faint text-sm">{label}</legend>
      <div className="grid gap-1 grid-cols-[repeat(auto-fill,minmax(11rem,1fr))]">
        {ids.map((id) => (
          <Button
            key={id}
            rank={on.includes(id) ? "main" : "plain"}
            icon={on.includes(id) ? Droplet : Minus}
            className="min-w-0 justify-start"
            aria-pressed={on.includes(id)}
            onClick={() => onTurn(id)}
          >
            <span className="truncate">{subjectName(site, id).replace(/^station /, "")}</span>
          </Button>
        ))}
      </div>
    </fieldset>
  );
}
