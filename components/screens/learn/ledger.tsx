"use client";
import { Scroller } from "@/components/kit/scroller";
import { useConventions } from "@/components/kit/conventions";
import { Mark } from "@/components/kit/notice";
import { Button } from "@/components/kit/button";
import { Checkbox, Radio } from "@/components/kit/inputs";
import { Table } from "@/components/kit/table";
import { useEffect, useMemo, useState } from "react";
import { request } from "@/components/data/request";
import { useChanges, useWorkspace } from "@/components/draft/site-draft";
import { useSiteLog } from "@/components/draft/site-log";
import { Dialog } from "@/components/kit/dialog";
import { type ConstantSuspect, type Odd, oddOnes } from "@/core/learn/odd";
import { causeWords } from "@/core/learn/odd-words";
import { expectedFlow } from "@/core/site-file/expected-flow";
import { devicesOf } from "@/core/site-file/records";
import type { SiteFile, Station } from "@/core/site-file/schema";
import { showNumber, showQuantity } from "@/core/units/units";
import type { KeptTrace } from "@/contracts/learning";
import { LedgerRow } from "./ledger-row";
import { StationPast } from "./station-past";
import { Trace } from "../../charts/learning-trace";
import type { LearningState, Proposal } from "../../data/use-learning";
import type { TracePoint } from "../../data/use-learning-stream";
import { HOW } from "@/components/words/learning-words";
import { signed, VERDICT } from "./words";

/** What stands where no result is on record: figures may have come with the site file. */
function nothingWaits(learned: number, stations: number): string {
  if (learned === 0) return "Nothing learned yet on this site.";
  return `${learned} of ${stations} stations have learned figures that came with the site file; no result is on record here.`;
}

/** Proposals beside what stands now: take all, some or none; what is odd and why. */
export function Ledger({
  learning,
  onLearnAgain,
}: {
  learning: LearningState;
  onLearnAgain: (stationId: string) => void;
}) {
  const { draft, canEdit, edit } = useWorkspace("draft", "canEdit", "edit");
  const changes = useChanges();
  const { view, running, loaded } = learning;
  const [showAll, setShowAll] = useState(false);
  const [unticked, setUnticked] = useState<ReadonlySet<string>>(new Set());
  const [ticked, setTicked] = useState<ReadonlySet<string>>(new Set());
  const [selected, setSelected] = useState<string | null>(null);

  const stationOf = useMemo(() => new Map(draft.stations.map((s) => [s.id, s])), [draft.stations]);
  const newest = view.results.reduce<Proposal | null>(
    (best, r) => (best === null || r.learnedAt > best.learnedAt ? r : best),
    null,
  )?.runId;
  const open = view.results.filter((r) => stationOf.has(r.elementId) && (r.takenAt === null || r.runId === newest));
  const rows = [...(showAll ? view.results.filter((r) => stationOf.has(r.elementId)) : open)].sort(
    (a, b) => (stationOf.get(a.elementId)?.number ?? 0) - (stationOf.get(b.elementId)?.number ?? 0),
  );
  // biome-ignore lint/correctness/useExhaustiveDependencies: the open results follow from the view
  const found = useMemo(() => {
    const past = new Map(
      open.map((r) => [r.elementId, (view.past[r.elementId] ?? []).filter((p) => p.at < r.learnedAt)]),
    );
    return oddOnes(
      draft,
      open.map((r) => ({ stationId: r.elementId, verdict: r.verdict, meanLpm: r.meanLpm, sdLpm: r.sdLpm })),
      past,
    );
    // The open results follow from the view.
  }, [draft, view]);
  const odd = useMemo(() => new Map(found.odd.map((o) => [o.stationId, o])), [found]);
  const takeable = open.filter((r) => r.verdict === "accepted" && r.takenAt === null);
  // Odd ones are looked at first: they are taken only when someone ticks them.
  const isOn = (r: Proposal): boolean => (odd.has(r.elementId) ? ticked.has(r.elementId) : !unticked.has(r.elementId));
  const chosen = takeable.filter(isOn);
  const rehearsed = chosen.filter((r) => r.how === "bench");
  const there = useSiteLog().there !== null;
  const [asking, setAsking] = useState(false);
  const set = (rowsOn: Proposal[]): void => {
    const on = new Set(rowsOn.map((r) => r.elementId));
    setTicked(on);
    setUnticked(new Set(takeable.filter((r) => !on.has(r.elementId)).map((r) => r.elementId)));
  };
  const toggle = (id: string, on: boolean): void => {
    setTicked((t) => with_(t, id, on));
    setUnticked((t) => with_(t, id, !on));
  };
  const current = rows.find((r) => r.elementId === selected) ?? null;
  const takenNow = open.filter((r) => r.takenAt !== null && r.before !== null);

  if (!loaded) return <p className="text-faint">Reading what was learned…</p>;
  if (view.results.length === 0)
    return (
      <p className="max-w-prose">
        {nothingWaits(draft.stations.filter((s) => s.learned).length, draft.stations.length)} Results come here as
        proposals beside what stands now; nothing is replaced until you take it.
      </p>
    );
  return (
    <div className="grid lg:grid-cols-[minmax(0,1fr)_24rem] gap-x-6 gap-y-4">
      <Dialog title="Rehearsed, not read at the site" open={asking} onClose={() => setAsking(false)}>
        <p className="mb-3">
          {rehearsed.length} of these come from the bench: they say what the simulated site did, not what flows there.
          They are marked as rehearsed wherever they stand, and do not seal Learn.
        </p>
        <div className="flex gap-2">
          <Button rank="main" onClick={() => void learning.take(chosen).then(() => setAsking(false))}>
            Take them, marked as rehearsed
          </Button>
          <Button onClick={() => setAsking(false)}>Not now</Button>
        </div>
      </Dialog>
      <section aria-label="Proposals" className="min-w-0">
        {found.constants.map((c) => (
          <Constant key={c.sensorId} suspect={c} />
        ))}
        <div className="flex flex-wrap items-center gap-2 mb-1">
          {canEdit && (
            <>
              <Button
                rank="main"
                onClick={() => (rehearsed.length > 0 && there ? setAsking(true) : void learning.take(chosen))}
                disabled={chosen.length === 0 || running || changes.length > 0}
              >
                Take {chosen.length} learned flow{chosen.length === 1 ? "" : "s"}
              </Button>
              <Button onClick={() => set(takeable)} disabled={takeable.length === 0}>
                All accepted
              </Button>
              <Button
                onClick={() => set(takeable.filter((r) => !odd.has(r.elementId)))}
                disabled={takeable.length === 0}
              >
                All but the odd
              </Button>
              <Button onClick={() => set([])} disabled={takeable.length === 0}>
                None
              </Button>
              {takenNow.length > 0 && (
                <Button onClick={() => void learning.undo(takenNow)} disabled={running || changes.length > 0}>
                  Undo taking {takenNow.length}
                </Button>
              )}
            </>
          )}
          <label className="inline-flex min-h-8 items-center gap-2">
            <Checkbox checked={showAll} onChange={(e) => setShowAll(e.target.checked)} />
            the newest of every station
          </label>
          {changes.length > 0 && <span className="text-warning">Save your changes before taking.</span>}
        </div>
        {odd.size > 0 && (
          <p className="text-warning mb-1">
            <Mark tone="caution" /> {odd.size} odd:{" "}
            {found.odd
              .slice(0, 6)
              .map((o) => stationOf.get(o.stationId)?.number)
              .join(", ")}
            {odd.size > 6 ? ` and ${odd.size - 6} more` : ""}. Not ticked; choose one to see why.
          </p>
        )}
        <Scroller className="max-h-[36rem]">
          <Table>
            <thead>
              <tr>
                <th>Take</th>
                <th>Station</th>
                <th>Verdict</th>
                <th className="text-right">Proposed</th>
                <th className="text-right">± s.d.</th>
                <th className="text-right">Learned</th>
                <th className="text-right">By hand</th>
                <th className="text-right">Design</th>
                <th className="text-right">Difference</th>
                <th>Uses</th>
              </tr>
            </thead>
            <tbody>
              {rows.map((r) => (
                <LedgerRow
                  key={r.elementId}
                  result={r}
                  station={stationOf.get(r.elementId) as Station}
                  odd={odd.has(r.elementId)}
                  on={isOn(r)}
                  selected={selected === r.elementId}
                  onSelect={() => setSelected(r.elementId)}
                  onToggle={(on) => toggle(r.elementId, on)}
                />
              ))}
            </tbody>
          </Table>
        </Scroller>
      </section>
      <aside aria-label="One station" className="min-w-0">
        {current ? (
          <OneResult
            key={current.runId + current.elementId}
            row={current}
            odd={odd.get(current.elementId) ?? null}
            learning={learning}
            onLearnAgain={onLearnAgain}
            onUse={(from) =>
              edit((f) => ({
                ...f,
                stations: f.stations.map((s) => (s.id === current.elementId ? { ...s, expectedFrom: from } : s)),
              }))
            }
          />
        ) : (
          <p className="text-faint">Choose a station to see its readings, why it is odd, and its figures so far.</p>
        )}
      </aside>
    </div>
  );
}

function with_(set: ReadonlySet<string>, id: string, on: boolean): ReadonlySet<string> {
  const next = new Set(set);
  if (on) next.add(id);
  else next.delete(id);
  return next;
}

/** All stations behind a sensor are off by one factor. */
function Constant({ suspect }: { suspect: ConstantSuspect }) {
  const { draft, canEdit, edit } = useWorkspace("draft", "canEdit", "edit");
  const sensor = devicesOf(draft).find((d) => d.id === suspect.sensorId);
  const corrected =
    "kGpm" in suspect.corrected
      ? `K ${showNumber(suspect.corrected.kGpm, 4)}`
      : `${showNumber(suspect.corrected.litresPerPulse, 4)} L per pulse`;
  const apply = (): void => edit((f) => withSensor(f, suspect));
  return (
    <p role="alert" className="border-l-4 border-warning pl-3 py-1 mb-2">
      <strong>
        <Mark tone="caution" /> All {suspect.stations} stations behind {sensor?.name ?? suspect.sensorId} read{" "}
        {signed(suspect.factor - 1)} against {suspect.against === "past" ? "their last learning" : "their design"}.
      </strong>{" "}
      That is the sensor's constant, not the stations: {corrected} would put it right. Prove the sensor before you
      believe it, then learn again.
      {canEdit && (
        <Button className="ml-2" onClick={apply}>
          Set {corrected}
        </Button>
      )}
    </p>
  );
}

function withSensor(file: SiteFile, { sensorId, corrected }: ConstantSuspect): SiteFile {
  const set = <T extends { id: string }>(d: T): T =>
    d.id === sensorId && "output" in d ? { ...d, output: { ...(d.output as object), ...corrected } } : d;
  return {
    ...file,
    pocs: file.pocs.map((p) => ({ ...p, devices: p.devices.map(set) })),
    mainlines: file.mainlines.map((m) => (m.devices ? { ...m, devices: m.devices.map(set) } : m)),
  };
}

const AGAINST = { design: "its design", alike: "its like on the same main", past: "its last learning" } as const;

function OneResult({
  row,
  odd,
  learning,
  onLearnAgain,
  onUse,
}: {
  row: Proposal;
  odd: Odd | null;
  learning: LearningState;
  onLearnAgain: (id: string) => void;
  onUse: (from: "learned" | "entered" | "design") => void;
}) {
  const { draft, units, canEdit } = useWorkspace("draft", "units", "canEdit");
  const { dateAt } = useConventions();
  const changes = useChanges();
  const [trace, setTrace] = useState<KeptTrace | null>(null);
  useEffect(() => {
    let gone = false;
    if (row.traced)
      request<KeptTrace>(
        "GET",
        `${learning.base}/${row.runId}/readings?station=${encodeURIComponent(row.elementId)}`,
      ).then(
        (t) => {
          if (!gone) setTrace(t);
        },
        () => {},
      );
    return () => {
      gone = true;
    };
  }, [row.runId, row.elementId, row.traced, learning.base]);
  const s = draft.stations.find((x) => x.id === row.elementId);
  if (!s) return null;
  const now = expectedFlow(s);
  const name = (id: string): string => {
    const x = draft.stations.find((y) => y.id === id);
    return x ? `${x.number} ${x.name}` : id;
  };
  const figures = (
    [
      ["learned", s.learned?.meanLpm],
      ["entered", s.enteredFlowLpm],
      ["design", s.designFlowLpm],
    ] as const
  ).filter(([, v]) => v !== undefined);
  return (
    <>
      <h3 className="text-lg">
        {s.number} {s.name}
      </h3>
      <p>
        {VERDICT[row.verdict]}, {HOW[row.how]}, {dateAt(row.learnedAt)}
        {row.companionIds.length > 0
          ? `; beside ${row.companionIds.map(name).join(", ")}, whose own flow was read first and taken off`
          : ""}
        .
      </p>
      {odd && (
        <div className="border-l-4 border-warning pl-3 my-2">
          <p className="font-semibold">
            <Mark tone="caution" /> {signed(odd.ratio - 1)} against {odd.against.map((a) => AGAINST[a]).join(" and ")}
            {odd.z !== null ? `; ${showNumber(Math.abs(odd.z), 1)} spreads from its like` : ""}.
          </p>
          <p className="text-sm text-faint">Likely causes, likeliest first, and what tells them apart:</p>
          <ol className="list-decimal pl-5 text-sm">
            {odd.causes.slice(0, 5).map((c) => {
              const words = causeWords(draft, c);
              return (
                <li key={c.code + (c.otherId ?? "")}>
                  <strong>{words.cause}.</strong> {words.check}
                </li>
              );
            })}
          </ol>
        </div>
      )}
      {trace && (
        <Trace
          points={pointsOf(trace)}
          expectedLpm={null}
          units={units}
          narrow
          result={{ meanLpm: row.meanLpm, sdLpm: row.sdLpm, secondsToSteady: row.secondsToSteady }}
        />
      )}
      <div className="flex flex-wrap items-end gap-2 mt-2">
        {canEdit && (
          <Button onClick={() => onLearnAgain(s.id)} disabled={learning.running || changes.length > 0}>
            Learn it again
          </Button>
        )}
        {canEdit && row.takenAt !== null && row.before !== null && (
          <Button onClick={() => void learning.undo([row])} disabled={learning.running || changes.length > 0}>
            Undo taking it
          </Button>
        )}
        {canEdit && row.takenAt === null && row.verdict === "accepted" && (
          <Button onClick={() => void learning.take([row])} disabled={learning.running || changes.length > 0}>
            Take only this
          </Button>
        )}
        {row.traced && (
          <a href={`${learning.base}/${row.runId}/readings`} download>
            Readings of the run, CSV
          </a>
        )}
      </div>
      {figures.length > 0 && (
        <fieldset className="mt-3" disabled={!canEdit}>
          <legend className="font-semibold">
            It uses
            {s.expectedSince ? <span className="text-faint font-normal"> since {dateAt(s.expectedSince)}</span> : ""}
          </legend>
          {figures.map(([from, lpm]) => (
            <label key={from} className="inline-flex items-center gap-2 mr-4">
              <Radio name={`use-${s.id}`} checked={now?.from === from} onChange={() => onUse(from)} />
              {from === "entered" ? "by hand" : from} {showQuantity(lpm as number, "flow", units, 1)}
            </label>
          ))}
        </fieldset>
      )}
      <StationPast
        station={s}
        proposed={row.takenAt === null ? { meanLpm: row.meanLpm, at: row.learnedAt } : null}
        base={learning.base}
      />
    </>
  );
}

function pointsOf(trace: KeptTrace): TracePoint[] {
  return trace.lpm.map((lpm, i) => ({
    at: trace.at + i,
    lpm,
    settling: !trace.read.some(([from, to]) => i >= from && i <= to),
  }));
}
