"use client";
import { Scroller } from "@/components/kit/scroller";
import { Mark } from "@/components/kit/notice";
import { Button } from "@/components/kit/button";
import { Checkbox } from "@/components/kit/inputs";
import { Table } from "@/components/kit/table";
import { useMemo, useState } from "react";
import { useChanges, useWorkspace } from "@/components/draft/site-draft";
import { useSiteLog } from "@/components/draft/site-log";
import { Dialog } from "@/components/kit/dialog";
import { type ConstantSuspect, oddOnes } from "@/core/learn/odd";
import { devicesOf } from "@/core/site-file/records";
import type { SiteFile, Station } from "@/core/site-file/schema";
import { showNumber } from "@/core/units/units";
import { LedgerRow } from "./ledger-row";
import { OneResult } from "./one-result";
import type { LearningState, Proposal } from "../../data/use-learning";
import { signed } from "./words";

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
