"use client";
import { useState } from "react";
import { useWorkspace } from "@/components/draft/site-draft";
import { Button } from "@/components/kit/button";
import { useConventions } from "@/components/kit/conventions";
import { fileStem } from "@/components/kit/save-file";
import { Scroller } from "@/components/kit/scroller";
import { Table } from "@/components/kit/table";
import { TakenAway } from "@/components/kit/taken-away";
import { walksCsv } from "@/components/words/record-csv";
import { PROBLEM_WORDS, type Walked, type WalkView } from "@/contracts/walks";
import { expectedFlow } from "@/core/site-file/expected-flow";
import { PhotoLinks } from "./photo-links";

/** Walks from station to station, as they came from the field; of the one that is opened every station. */
export function WalksPart({ walks, at }: { walks: readonly WalkView[]; at: string }) {
  const { draft } = useWorkspace("draft");
  const { momentAt } = useConventions();
  const [chosen, setChosen] = useState(at);
  const opened = walks.find((w) => w.id === chosen);
  return (
    <section aria-label="Walks">
      <div className="flex items-center gap-2">
        <h3 className="text-lg">Walks</h3>
        <TakenAway csv={() => walksCsv(walks, draft)} of="the walks" name={`${fileStem(draft)}-walks`} />
      </div>
      <Scroller>
        <Table aria-label="Walks">
          <thead>
            <tr>
              <th>Begun</th>
              <th>Who</th>
              <th>Ended</th>
              <th className="text-right">Looked at</th>
              <th className="text-right">Problems</th>
              <th>About it</th>
            </tr>
          </thead>
          <tbody>
            {walks.map((w) => (
              <tr key={w.id} aria-current={w.id === chosen ? "true" : undefined}>
                <td className="whitespace-nowrap">
                  <Button rank="quiet" className="px-0" onClick={() => setChosen(w.id === chosen ? "" : w.id)}>
                    {momentAt(w.begunAt)}
                  </Button>
                </td>
                <td>{w.by}</td>
                <td className="whitespace-nowrap">{w.endedAt ? momentAt(w.endedAt) : "still on"}</td>
                <td className="text-right tabular-nums">
                  {w.looked.filter((l) => l.state !== "skipped").length} of {w.stationIds.length}
                </td>
                <td className="text-right tabular-nums">{w.looked.filter((l) => l.state === "problem").length}</td>
                <td>{w.note}</td>
              </tr>
            ))}
          </tbody>
        </Table>
      </Scroller>
      {opened && <WalkStations walk={opened} />}
    </section>
  );
}

const STATE_WORDS: Record<Walked, string> = { fine: "fine", problem: "problem", skipped: "skipped" };

function WalkStations({ walk }: { walk: WalkView }) {
  const { draft, siteId } = useWorkspace("draft", "siteId");
  const { figure, unit } = useConventions();
  const stations = new Map(draft.stations.map((s) => [s.id, s]));
  return (
    <Scroller>
      <Table aria-label="Stations of the walk" className="mt-3">
        <thead>
          <tr>
            <th>Station</th>
            <th>Came of it</th>
            <th className="text-right">Expected, {unit("flow")}</th>
            <th className="text-right">Read, {unit("flow")}</th>
            <th>Note</th>
          </tr>
        </thead>
        <tbody>
          {walk.stationIds.map((id) => {
            const station = stations.get(id);
            const look = walk.looked.find((l) => l.stationId === id);
            const expected = station && expectedFlow(station)?.lpm;
            return (
              <tr key={id}>
                <td>{station ? `${station.number} ${station.name}` : id}</td>
                <td className={look?.state === "problem" ? "font-semibold text-warning" : undefined}>
                  {look ? STATE_WORDS[look.state] : "not looked at"}
                  {look?.problem ? `: ${PROBLEM_WORDS[look.problem]}` : ""}
                </td>
                <td className="text-right tabular-nums">{expected ? figure(expected, "flow") : ""}</td>
                <td className="text-right tabular-nums">
                  {look?.readLpm !== null && look?.readLpm !== undefined ? figure(look.readLpm, "flow") : ""}
                </td>
                <td>
                  {look?.note} {look && <PhotoLinks siteId={siteId} photoIds={look.photoIds} />}
                </td>
              </tr>
            );
          })}
        </tbody>
      </Table>
    </Scroller>
  );
}
