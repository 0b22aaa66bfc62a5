"use client";
import { Eye, Layers, Undo2 } from "lucide-react";
import Link from "next/link";
import { useSearchParams } from "next/navigation";
import { useCallback, useMemo, useState } from "react";
import { handOver } from "@/components/data/handed-over";
import { useDeeds } from "@/components/data/use-deeds";
import { useGroups } from "@/components/data/use-groups";
import { HowFar } from "@/components/frame/how-far";
import { PageHead } from "@/components/frame/page-head";
import { Button } from "@/components/kit/button";
import { useConventions } from "@/components/kit/conventions";
import { asIso } from "@/components/kit/dates";
import { holdsWords } from "@/components/kit/find-words";
import { InBrowser } from "@/components/kit/in-browser";
import { Input } from "@/components/kit/inputs";
import { Caution, Problem } from "@/components/kit/notice";
import { sitesWords } from "@/components/words/sites-words";
import type { DeedView, SitePreview } from "@/contracts/deeds";
import { foundBy } from "@/contracts/groups";
import { type DeedChange, deedChange, deedWords, isOffice } from "@/contracts/office-change";
import { ChangeForm } from "./change-form";
import { usual } from "./usual-change";
import { SitesToChange } from "./sites-to-change";

/** A change that was begun where what is copied stands: the address brings it. */
function begunElsewhere(asked: string | null): DeedChange | null {
  if (asked === null) return null;
  try {
    return deedChange.safeParse(JSON.parse(asked)).data ?? null;
  } catch {
    return null;
  }
}

const NONE: ReadonlyMap<string, SitePreview> = new Map();

/** One change on many sites: chosen, looked at, made as one deed, and taken back as one. */
export function ManyScreen({ who, isManager }: { who: string; isManager: boolean }) {
  const { view, problem: noSites } = useGroups();
  const { deeds, many, doing, problem, stop, look, make, undo } = useDeeds();
  const busy = many !== null && !many.ended;
  const [today] = useState(() => asIso(new Date()));
  const asked = useSearchParams().get("change");
  const [change, setChange] = useState<DeedChange>(() => begunElsewhere(asked) ?? usual("holdDays", today));
  const [chosen, setChosen] = useState<ReadonlySet<string>>(new Set());
  const [previews, setPreviews] = useState(NONE);
  const [find, setFind] = useState("");
  const shown = useMemo(() => (view?.sites ?? []).filter((s) => holdsWords(foundBy(s), find)), [view, find]);
  const turn = useCallback((ids: string[], on: boolean): void => {
    setChosen((before) => {
      const next = new Set(before);
      for (const id of ids) on ? next.add(id) : next.delete(id);
      return next;
    });
  }, []);
  const ready = [...chosen].flatMap((id) => {
    const p = previews.get(id);
    return p && p.problem === null && p.changes.length > 0 ? [{ siteId: id, version: p.version }] : [];
  });
  const right = deedChange.safeParse(change).success;
  const unseen = [...chosen].filter((id) => !previews.has(id));
  const lookAtAll = async (): Promise<void> => {
    const seen = await look([...chosen], change);
    setPreviews(new Map(seen.map((p) => [p.siteId, p])));
  };
  const makeIt = async (): Promise<void> => {
    if (!(await make(change, ready))) return;
    setPreviews(NONE);
    setChosen(new Set());
  };
  const failed = noSites ?? problem;
  return (
    <>
      <PageHead title="Many sites" who={who} about="one change made on many, and taken back as one" />
      <main className="grid gap-6 px-4 pb-6 lg:grid-cols-[20rem_1fr]">
        <section aria-label="The change" className="grid min-w-0 content-start gap-3">
          <ChangeForm
            change={change}
            today={today}
            isManager={isManager}
            disabled={busy}
            onChange={(next) => {
              setChange(next);
              setPreviews(NONE);
            }}
          />
          {unseen.length > 0 || ready.length === 0 ? (
            <Button
              rank="main"
              icon={Eye}
              disabled={chosen.size === 0 || busy || !right}
              onClick={() => void lookAtAll()}
            >
              See what it does to {sitesWords(chosen.size)}
            </Button>
          ) : (
            <>
              <Button
                rank="main"
                icon={Layers}
                className="h-auto min-h-8 whitespace-normal py-1 text-left"
                disabled={busy}
                onClick={() => void makeIt()}
              >
                Change {sitesWords(ready.length)}: {deedWords(change)}
              </Button>
              {!isOffice(change) && (
                <Caution>
                  It is saved in Presa, not sent: controllers get it from Controllers. A site that somebody saves
                  meanwhile is told and left.
                </Caution>
              )}
            </>
          )}
          <p className="text-sm text-faint">
            To send settings to the controllers of {chosen.size > 0 ? "these sites" : "many sites"}, or to have stations
            learn tonight, go on at{" "}
            <Link className="link" href="/controllers" onClick={() => handOver(chosen)}>
              Controllers
            </Link>
            {chosen.size > 0 && "; theirs are ticked there"}.
          </p>
          {failed && <Problem>{failed}</Problem>}
          {many && <HowFar many={many} doing={doing} onStop={stop} />}
          <Deeds deeds={deeds} busy={busy} onUndo={(d) => void undo(d)} />
        </section>
        <section aria-label="Sites">
          <div className="mb-2 flex flex-wrap items-center gap-2">
            <Input
              className="w-64"
              aria-label="Find sites"
              placeholder="Name, client, area or crew"
              value={find}
              onChange={(e) => setFind(e.target.value)}
            />
            <Button
              rank="quiet"
              disabled={shown.length === 0}
              onClick={() =>
                turn(
                  shown.map((s) => s.id),
                  true,
                )
              }
            >
              Tick {find === "" ? "all" : "those found"}
            </Button>
            <Button rank="quiet" disabled={chosen.size === 0} onClick={() => setChosen(new Set())}>
              Tick none
            </Button>
            <span className="text-faint">
              {chosen.size} of {sitesWords(view?.sites.length ?? 0)} ticked
            </span>
          </div>
          <InBrowser>
            {view && <SitesToChange sites={shown} chosen={chosen} previews={previews} turn={turn} />}
          </InBrowser>
        </section>
      </main>
    </>
  );
}

/** What was done lately, to be taken back. */
function Deeds({ deeds, busy, onUndo }: { deeds: DeedView[] | null; busy: boolean; onUndo: (deed: DeedView) => void }) {
  const { here } = useConventions();
  if (!deeds || deeds.length === 0) return null;
  return (
    <section aria-labelledby="deeds" className="mt-4">
      <h2 id="deeds" className="border-b-2 border-base-content text-lg">
        Made before
      </h2>
      <ul>
        {deeds.map((d) => (
          <li key={d.id} className="border-b border-base-300 py-2">
            <div className="flex items-start justify-between gap-2">
              <span>
                <span className="font-semibold">{d.name}</span>
                <span className="block text-xs text-faint">
                  {d.madeBy}, {here(d.madeAt)}
                </span>
              </span>
              {d.standing.length > 0 && (
                <Button
                  rank="quiet"
                  icon={Undo2}
                  disabled={busy}
                  aria-label={`Take back: ${d.name}`}
                  onClick={() => onUndo(d)}
                >
                  Take back
                </Button>
              )}
            </div>
            <p className="text-xs text-faint">
              {d.standing.length > 0 && `stands on ${d.standing.map((s) => s.name).join(", ")}`}
              {d.standing.length > 0 && d.undone > 0 && "; "}
              {d.undone > 0 && `taken back on ${sitesWords(d.undone)}`}
            </p>
          </li>
        ))}
      </ul>
    </section>
  );
}
