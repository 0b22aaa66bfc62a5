"use client";
import { useConventions } from "@/components/kit/conventions";
import { Button } from "@/components/kit/button";
import { useMemo, useState } from "react";
import { TickField } from "@/components/kit/fields";
import { computeBetter } from "@/components/draft/compute";
import { useJob } from "@/components/draft/use-job";
import { useNightOf } from "@/components/draft/use-night-of";
import { useNight, useWorkspace } from "@/components/draft/site-draft";
import { type Allowed, USUAL_CHANGES } from "@/core/optimize/tunings";
import { applyChanges, settingChanges } from "@/core/optimize/settings-changes";
import type { SiteFile } from "@/core/site-file/schema";
import { showNumber } from "@/core/units/units";
import type { NightAnswer } from "@/core/summary/night-answer";
import type { BetterAnswer } from "@/workers/compute.worker";
import { SecondsField } from "./seconds-field";
import { settingWords } from "./setting-words";
import { SideBySide } from "./side-by-side";

const KINDS: [keyof Allowed, string][] = [
  ["order", "order of stations"],
  ["priority", "priorities"],
  ["atOnce", "numbers at once"],
  ["starts", "start times"],
  ["moves", "stations between programs of equal days"],
];
const SECONDS = [2, 5, 15, 60];

/** Searches settings that end the night earlier, and shows both nights and every setting to change, to be taken all or in part. */
export function BetterPanel({ onClose }: { onClose: () => void }) {
  const { draft, date, edit, canEdit } = useWorkspace("draft", "date", "edit", "canEdit");
  const { clock } = useConventions();
  const night = useNight();
  const [allowed, setAllowed] = useState<Allowed>(USUAL_CHANGES);
  const [seconds, setSeconds] = useState(2);
  const [best, setBest] = useState<BetterAnswer | null>(null);
  const [from, setFrom] = useState<SiteFile | null>(null);
  const { share, problem: failed, start, cancel } = useJob<BetterAnswer>();
  const searching = share !== null;
  const [left, setLeft] = useState<ReadonlySet<string>>(new Set());
  const search = (): void => {
    setBest(null);
    setLeft(new Set());
    setFrom(draft);
    void start(() => computeBetter(draft, date, seconds, allowed, setBest)).then((answer) => answer && setBest(answer));
  };
  const stale = from !== null && from !== draft && !searching;
  const changes = useMemo(() => (from && best ? settingChanges(from, best.site) : []), [from, best]);
  const chosen = useMemo(
    () =>
      from && best
        ? applyChanges(from, best.site, new Set(changes.map((c) => c.id).filter((id) => !left.has(id))))
        : null,
    [from, best, changes, left],
  );
  const after = useNightOf(searching ? null : chosen, date);
  const wasS = night?.plan.makespanS ?? 0;
  const states: [boolean, "searching" | "none" | "stale" | "found"][] = [
    [searching, "searching"],
    [best !== null && changes.length === 0, "none"],
    [best !== null && stale, "stale"],
    [best !== null && after !== null, "found"],
  ];
  const state = states.find(([holds]) => holds)?.[1];
  return (
    <section aria-label="A better night" className="border-y-2 border-base-content py-2 mb-3">
      <div className="flex flex-wrap items-center gap-x-4 gap-y-1">
        <h3 className="text-lg">A better night</h3>
        <span className="text-faint">may change</span>
        {KINDS.map(([key, name]) => (
          <TickField
            key={key}
            label={name}
            checked={allowed[key]}
            disabled={searching}
            onCommit={(v) => setAllowed({ ...allowed, [key]: v })}
          />
        ))}
        <SecondsField value={seconds} options={SECONDS} disabled={searching} onCommit={setSeconds} />
        {searching ? (
          <Button onClick={cancel}>Stop, keep the best</Button>
        ) : (
          <Button rank="main" onClick={search} disabled={!night || night.plan.runs.length === 0}>
            Search
          </Button>
        )}
        <span className="grow" />
        <Button rank="quiet" onClick={onClose}>
          Close
        </Button>
      </div>
      {failed && (
        <p role="alert" className="text-error">
          {failed}
        </p>
      )}
      <p role="status" className="my-1">
        {state === "searching" &&
          `Searching: ${best ? `${showNumber(best.makespanS / 60)} min long, was ${showNumber(wasS / 60)}; ${showNumber(best.tries)} nights tried to find it` : "nothing better yet"}…`}
        {state === "none" &&
          "No better night was found: none that ends earlier, with fewer starts of a pump or a smoother flow. Allow other kinds of change, or look at what binds."}
        {state === "stale" && "The site has changed since this search; search again."}
        {state === "found" && after && (
          <>
            With what is chosen below the night ends <strong>{clock(after.plan.finish, date)}</strong>, was{" "}
            {clock(night?.plan.finish, date)}; <strong>{showNumber(after.plan.makespanS / 60)} min</strong> long,{" "}
            {best && best.boundS > 0 && (
              <>
                <strong>{(after.plan.makespanS / best.boundS).toFixed(2)} ×</strong> what none of these changes beats,
                was {(wasS / best.boundS).toFixed(2)} ×{outOfReach(best, after.plan.makespanS)}
              </>
            )}
            . {shortWords(night, after)}
          </>
        )}
      </p>
      {best && changes.length > 0 && !searching && !stale && (
        <>
          <ul aria-label="Settings to change" className="columns-1 lg:columns-2 gap-8">
            {changes.map((c) => (
              <li key={c.id}>
                <TickField
                  label={settingWords(draft, c)}
                  checked={!left.has(c.id)}
                  onCommit={(on) => {
                    const next = new Set(left);
                    if (on) next.delete(c.id);
                    else next.add(c.id);
                    setLeft(next);
                  }}
                />
              </li>
            ))}
          </ul>
          {canEdit && (
            <Button
              rank="main"
              className="my-2"
              disabled={!chosen || left.size === changes.length}
              onClick={() => {
                if (chosen) edit(() => chosen);
                setBest(null);
                setFrom(null);
              }}
            >
              Take {left.size === 0 ? "all" : changes.length - left.size} of {changes.length} settings into the draft
            </Button>
          )}
          {from && night && after && (
            <SideBySide
              before={{ site: from, night }}
              after={{ site: chosen as SiteFile, night: after, name: "Better" }}
              date={date}
            />
          )}
        </>
      )}
    </section>
  );
}

function shortWords(before: NightAnswer | null, after: NightAnswer): string {
  const [a, b] = [before?.summary.shortfallMin ?? 0, after.summary.shortfallMin];
  if (a !== b) return `${showNumber(b)} min unwatered, was ${showNumber(a)}.`;
  return b > 0 ? `${showNumber(b)} min stay unwatered.` : "";
}

/** Of the minutes over what the litres alone need, those that are known to be out of reach; nothing where none are. */
function outOfReach({ boundS, litresS }: BetterAnswer, makespanS: number): string {
  const [over, known] = [makespanS - litresS, boundS - litresS].map((s) => Math.round(s / 60)) as [number, number];
  return known > 0 ? `; of the ${over} min over what the litres alone need, ${known} are known to be out of reach` : "";
}
