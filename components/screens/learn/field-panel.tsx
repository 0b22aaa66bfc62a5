"use client";
import { useConventions } from "@/components/kit/conventions";
import { ChevronLeft, ChevronRight, X } from "lucide-react";
import { Button } from "@/components/kit/button";
import { Table } from "@/components/kit/table";
import { useEffect, useMemo, useState } from "react";
import { ChoiceField, NumberField } from "@/components/kit/fields";
import { useChanges, useWorkspace } from "@/components/draft/site-draft";
import { refusals } from "@/core/learn/refusals";
import { type TimedVolume, timedFlow } from "@/core/learn/stopwatch";
import { expectedFlow } from "@/core/site-file/expected-flow";
import { showNumber, showQuantity } from "@/core/units/units";
import type { LearningState } from "../../data/use-learning";
import { HOW } from "@/components/words/learning-words";
import { REFUSAL, signed, VERDICT } from "./words";

/** At the valve box: one station now on the bench, or the meter and a stopwatch. The same ledger. */
export function FieldPanel({ learning }: { learning: LearningState }) {
  const { draft, base, units, canEdit, date } = useWorkspace("draft", "base", "units", "canEdit", "date");
  const { dateAt } = useConventions();
  const changes = useChanges();
  const [id, setId] = useState(draft.stations[0]?.id ?? "");
  const [readings, setReadings] = useState<TimedVolume[]>([]);
  const station = draft.stations.find((s) => s.id === id);
  const reasons = useMemo(() => refusals(base, [id])[0]?.reasons ?? [], [base, id]);
  if (!station) return <p>No stations yet.</p>;
  const now = expectedFlow(station);
  const row = learning.view.results.find((r) => r.elementId === id);
  const timed = timedFlow(readings);
  const choose = (next: string): void => {
    setId(next);
    setReadings([]);
  };
  const step = (by: number): void => {
    const at = draft.stations.findIndex((s) => s.id === id);
    const next = draft.stations[at + by];
    if (next) choose(next.id);
  };
  return (
    <div className="max-w-xl">
      <div className="flex items-end gap-2">
        <Button aria-label="Station before" onClick={() => step(-1)}>
          <ChevronLeft className="size-4" aria-hidden />
        </Button>
        <div className="grow min-w-0">
          <ChoiceField
            label="Station"
            value={id}
            options={draft.stations.map((s) => [s.id, `${s.number} ${s.name}`] as const)}
            onCommit={choose}
          />
        </div>
        <Button aria-label="Station after" onClick={() => step(1)}>
          <ChevronRight className="size-4" aria-hidden />
        </Button>
      </div>
      <p className="my-3">
        <span className="text-xl font-semibold">{now ? showQuantity(now.lpm, "flow", units, 1) : "no figure"}</span>
        {now && (
          <span className="text-faint">
            {" "}
            {now.from === "entered" ? "by hand" : now.from}
            {station.learned && now.from === "learned" ? `, ${dateAt(station.learned.at)}` : ""}
          </span>
        )}
      </p>
      {row && (
        <div className="border-y-2 border-base-content py-2 mb-3">
          <p>
            {row.takenAt ? "Taken" : "Proposed"}: <strong>{showQuantity(row.meanLpm, "flow", units, 1)}</strong> ±{" "}
            {showNumber((100 * row.sdLpm) / Math.max(1e-9, row.meanLpm), 1)} %, {VERDICT[row.verdict]}, {HOW[row.how]}
            {now && row.takenAt === null && row.verdict === "accepted"
              ? `; ${signed(row.meanLpm / now.lpm - 1)} against what stands`
              : ""}
            .
          </p>
          {canEdit && row.verdict === "accepted" && row.takenAt === null && (
            <Button
              rank="main"
              className="mt-2"
              disabled={learning.running || changes.length > 0}
              onClick={() => void learning.take([row])}
            >
              Take it
            </Button>
          )}
          {canEdit && row.takenAt !== null && row.before !== null && (
            <Button
              className="mt-2"
              disabled={learning.running || changes.length > 0}
              onClick={() => void learning.undo([row])}
            >
              Undo taking it
            </Button>
          )}
        </div>
      )}
      {canEdit && (
        <>
          {reasons.length > 0 ? (
            <p className="text-warning mb-2">
              <X className="inline size-[1em] align-[-0.12em]" aria-hidden /> Cannot be learned:{" "}
              {reasons.map((r) => REFUSAL[r].words).join("; ")}. The stopwatch works all the same.
            </p>
          ) : (
            <Button
              rank="main"
              className="w-full justify-center mb-1"
              disabled={learning.running || changes.length > 0}
              onClick={() =>
                void learning.start({
                  stationIds: [id],
                  sets: [],
                  faults: [],
                  seed: 1 + (Date.now() % 1000),
                  date,
                  from: "12:00",
                  avoid: true,
                  pace: 60,
                  baselineS: 30,
                  later: false,
                })
              }
            >
              Learn {station.number} now, on the bench
            </Button>
          )}
          {changes.length > 0 && <p className="text-warning">Save your changes first.</p>}
          <Stopwatch key={id} onReading={(r) => setReadings((list) => [...list, r])} />
          {readings.length > 0 && (
            <>
              <Table className="my-2">
                <thead>
                  <tr>
                    <th>Reading</th>
                    <th className="text-right">Volume</th>
                    <th className="text-right">Time</th>
                    <th className="text-right">Flow</th>
                    <th>
                      <span className="sr-only">Remove</span>
                    </th>
                  </tr>
                </thead>
                <tbody>
                  {readings.map((r, i) => (
                    // biome-ignore lint/suspicious/noArrayIndexKey: each is its place in the list
                    <tr key={i}>
                      <td>{i + 1}</td>
                      <td className="text-right">{showQuantity(r.litres, "volume", units)}</td>
                      <td className="text-right">{showNumber(r.seconds, 1)} s</td>
                      <td className="text-right">{showQuantity((60 * r.litres) / r.seconds, "flow", units, 1)}</td>
                      <td>
                        <Button
                          rank="quiet"
                          aria-label={`Remove reading ${i + 1}`}
                          onClick={() => setReadings(readings.filter((_, k) => k !== i))}
                        >
                          <X className="size-4" aria-hidden />
                        </Button>
                      </td>
                    </tr>
                  ))}
                </tbody>
              </Table>
              {timed && (
                <p>
                  Together <strong>{showQuantity(timed.meanLpm, "flow", units, 1)}</strong> ±{" "}
                  {showNumber((100 * timed.sdLpm) / timed.meanLpm, 1)} %
                  {readings.length === 1 ? "; read it again to see how well it repeats" : ""}.
                </p>
              )}
              <Button
                rank="main"
                className="mt-1"
                disabled={!timed}
                onClick={() =>
                  void learning.outside({ how: "stopwatch", stationId: id, readings }).then((n) => {
                    if (n !== null) setReadings([]);
                  })
                }
              >
                Propose it
              </Button>
            </>
          )}
        </>
      )}
    </div>
  );
}

/** Times a volume on the meter: start and stop at two of its marks, or type both. */
function Stopwatch({ onReading }: { onReading: (reading: TimedVolume) => void }) {
  const { units } = useWorkspace("units");
  const [began, setBegan] = useState<number | null>(null);
  const [elapsed, setElapsed] = useState<number | undefined>(undefined);
  const [litres, setLitres] = useState<number | undefined>(undefined);
  useEffect(() => {
    if (began === null) return;
    const timer = setInterval(() => setElapsed((performance.now() - began) / 1000), 100);
    return () => clearInterval(timer);
  }, [began]);
  const press = (): void => {
    if (began === null) {
      setElapsed(0);
      setBegan(performance.now());
    } else {
      setElapsed((performance.now() - began) / 1000);
      setBegan(null);
    }
  };
  const [missing, setMissing] = useState<string | null>(null);
  const add = (): void => {
    if (began !== null) {
      setMissing("Stop the watch first.");
      return;
    }
    if (!elapsed || !litres) {
      setMissing("Give the time and what went through, both over 0.");
      return;
    }
    setMissing(null);
    onReading({ litres, seconds: Math.round(elapsed * 10) / 10 });
    setElapsed(undefined);
    setLitres(undefined);
  };
  return (
    <section aria-label="Stopwatch" className="mt-4">
      <h3 className="text-lg">Meter and stopwatch</h3>
      <p className="text-sm text-faint mb-2">
        Run the station alone. Start at a mark of the meter, stop at another, and write down what went through.
      </p>
      <div className="grid grid-cols-2 gap-3 items-end">
        <Button
          className="justify-center text-xl"
          style={{ minHeight: "4rem" }}
          onClick={press}
          aria-pressed={began !== null}
        >
          {began === null ? "Start" : "Stop"}
        </Button>
        <p className="text-xl text-right font-semibold" role="timer">
          {(elapsed ?? 0).toFixed(1)} s
        </p>
        <NumberField
          label="Went through"
          quantity="volume"
          system={units}
          value={litres}
          min={0}
          max={1e9}
          onCommit={setLitres}
        />
        <NumberField
          label="or the time, typed"
          unit="s"
          value={began === null && elapsed !== undefined ? Math.round(elapsed * 10) / 10 : undefined}
          min={0}
          max={86_400}
          disabled={began !== null}
          onCommit={setElapsed}
        />
      </div>
      {missing && (
        <p role="alert" className="text-error mt-1">
          {missing}
        </p>
      )}
      <Button className="w-full justify-center mt-2" onClick={add}>
        Add this reading
      </Button>
    </section>
  );
}
