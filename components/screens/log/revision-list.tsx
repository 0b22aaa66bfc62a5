"use client";
import { CircleDot, Undo2 } from "lucide-react";
import { useEffect, useRef, useState } from "react";
import { Button } from "@/components/kit/button";
import { classes } from "@/components/kit/classes";
import { Dialog } from "@/components/kit/dialog";
import type { RevisionHead } from "@/contracts/log";

/** Revisions of the configuration, newest first, each with what it changed; a manager may put one back. Nothing is ever deleted. */
export function RevisionList({
  revisions,
  inForce,
  chosen,
  when,
  onPutBack,
  unsaved,
  locked,
}: {
  revisions: readonly RevisionHead[];
  inForce: number;
  chosen: number | null;
  when: (iso: string) => string;
  /** Null where this person may not. */
  onPutBack: ((version: number) => void) | null;
  /** Unsaved work must be saved or discarded first. */
  unsaved: boolean;
  /** Names of what is locked out now: it stays so, whatever is put back. */
  locked: readonly string[];
}) {
  const [asking, setAsking] = useState<number | null>(null);
  const here = useRef<HTMLElement>(null);
  useEffect(() => {
    if (chosen !== null) here.current?.scrollIntoView({ block: "center" });
  }, [chosen]);
  return (
    <section aria-label="Revisions" className="max-w-5xl">
      <Dialog title={`Put revision ${asking ?? ""} back`} open={asking !== null} onClose={() => setAsking(null)}>
        <p className="mb-3">
          Locked out now, and stays so: <strong>{locked.join(", ")}</strong>. Nothing of an earlier revision locks or
          frees anything; what is repaired is freed by clearing its alarm.
        </p>
        <div className="flex gap-2">
          <Button
            rank="main"
            icon={Undo2}
            onClick={() => {
              if (asking !== null) onPutBack?.(asking);
              setAsking(null);
            }}
          >
            Put it back, with these locked out
          </Button>
          <Button onClick={() => setAsking(null)}>Not now</Button>
        </div>
      </Dialog>
      {revisions.map((r) => (
        <article
          key={r.version}
          ref={r.version === chosen ? here : null}
          className={classes("border-b border-base-300 py-2", r.version === chosen && "bg-base-200 px-2")}
        >
          <div className="flex flex-wrap items-center gap-x-3">
            <strong className="w-8 text-right">{r.version}</strong>
            <span>
              {when(r.madeAt)}, {r.madeByName}
            </span>
            {r.note && <em>{r.note}</em>}
            <span className="grow" />
            {r.version === inForce && <InForce />}
            {r.version !== inForce && onPutBack && (
              <Button
                icon={Undo2}
                disabled={unsaved}
                title={unsaved ? "Save or discard your changes first" : undefined}
                onClick={() => (locked.length > 0 ? setAsking(r.version) : onPutBack(r.version))}
              >
                Put back
              </Button>
            )}
          </div>
          <details className="pl-11" open={r.version === chosen}>
            <summary className="cursor-pointer text-faint">
              {r.changes.length} change{r.changes.length === 1 ? "" : "s"}
              {r.changes[0] ? `: ${r.changes[0].words}` : ""}
            </summary>
            <ul>
              {r.changes.map((c) => (
                <li key={`${c.path}${c.words}`}>{c.words}</li>
              ))}
            </ul>
          </details>
        </article>
      ))}
    </section>
  );
}

/** Which revision is in force. */
function InForce() {
  return (
    <span className="inline-flex items-center gap-1 font-semibold">
      <CircleDot className="size-4" aria-hidden /> in force
    </span>
  );
}
