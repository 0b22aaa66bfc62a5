"use client";
import { Scroller } from "@/components/kit/scroller";
import { useConventions } from "@/components/kit/conventions";
import { Table } from "@/components/kit/table";
import { Button } from "@/components/kit/button";
import { patched, type Patch } from "@/core/site-file/patch";
import { NumberField } from "@/components/kit/fields";
import { useWorkspace } from "@/components/draft/site-draft";

import type { StationSight } from "@/core/limits/sight";
import type { Station } from "@/core/site-file/schema";

import type { Company } from "../../pictures/jaw/jaw-scale";

type Props = {
  rows: StationSight[];
  company: Company;
  watched: Map<string, number>;
  selected: string | null;
  onSelect: (id: string) => void;
  inherits: (station: Station, key: "highPercent" | "lowPercent") => string;
};

/** The jaw as a table: the same figures, each limit to be typed. */
export function JawTable({ rows, company, watched, selected, onSelect, inherits }: Props) {
  const { draft, edit, canEdit } = useWorkspace("draft", "edit", "canEdit");
  const stations = new Map(draft.stations.map((s) => [s.id, s]));
  const { figure, unit } = useConventions();
  const flow = (v: number): string => figure(v, "flow", 1);
  const put = (id: string, values: Patch<Station>): void =>
    edit((f) => ({ ...f, stations: f.stations.map((s) => (s.id === id ? patched(s, values) : s)) }));
  return (
    <Scroller className="max-h-[75vh]">
      <Table aria-label="Limits as a table">
        <thead>
          <tr>
            <th>Station</th>
            <th className="text-right">Expected, {unit("flow")}</th>
            <th className="text-right">Trips below</th>
            <th className="text-right">Trips above</th>
            <th>Low, %</th>
            <th>High, %</th>
            <th className="text-right">With others</th>
            <th>One outlet</th>
            <th>Lateral</th>
            <th>Never opens</th>
            <th className="text-right">Watched</th>
          </tr>
        </thead>
        <tbody>
          {rows.map((r) => {
            const s = stations.get(r.stationId) as Station;
            const at = r[company];
            const part = watched.get(s.id);
            const seenWord = (yes: boolean): string => {
              if (!at.judged) return "not watched";
              return yes ? "seen" : "unseen";
            };
            const seen = (yes: boolean, reads: number): React.ReactNode => (
              <span className={yes ? "" : "text-warning"}>
                {seenWord(yes)}, reads {flow(reads * at.expectedLpm)}
              </span>
            );
            return (
              <tr key={s.id} aria-selected={selected === s.id}>
                <td className="whitespace-nowrap">
                  <Button rank="quiet" onClick={() => onSelect(s.id)}>
                    {s.number} {s.name}
                  </Button>
                </td>
                <td className="text-right">{flow(at.expectedLpm)}</td>
                <td className="text-right">{flow(at.lowLpm)}</td>
                <td className="text-right">{flow(at.highLpm)}</td>
                <td className="w-28">
                  <NumberField
                    label={`Low limit of ${s.number} ${s.name}`}
                    hideLabel
                    value={s.lowPercent}
                    min={1}
                    max={100}
                    placeholder={inherits(s, "lowPercent")}
                    disabled={!canEdit}
                    onCommit={(v) => put(s.id, { lowPercent: v })}
                  />
                </td>
                <td className="w-28">
                  <NumberField
                    label={`High limit of ${s.number} ${s.name}`}
                    hideLabel
                    value={s.highPercent}
                    min={1}
                    max={1000}
                    placeholder={inherits(s, "highPercent")}
                    disabled={!canEdit}
                    onCommit={(v) => put(s.id, { highPercent: v })}
                  />
                </td>
                <td className="text-right">{at.with.length - 1}</td>
                <td>{seen(at.seesOutlet, at.outletRatio)}</td>
                <td>{seen(at.seesLateral, at.lateralRatio)}</td>
                <td className={at.seesNeverOpens ? "" : "text-warning"}>{seenWord(at.seesNeverOpens)}</td>
                <td className={`text-right ${part !== undefined && part < 0.7 ? "text-warning" : ""}`}>
                  {part === undefined ? "does not run" : `${Math.round(part * 100)} %`}
                </td>
              </tr>
            );
          })}
        </tbody>
      </Table>
    </Scroller>
  );
}
