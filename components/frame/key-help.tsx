"use client";
import { Button } from "@/components/kit/button";
import { useEffect, useRef } from "react";

const KEYS: [string, string][] = [
  ["1 – 9, 0", "screens of the work; 0 is Rounds"],
  ["/", "find"],
  ["j, k", "next and previous row"],
  ["arrows, Enter", "move and edit in the grid"],
  ["Ctrl+D", "fill down"],
  ["Ctrl+Z, Ctrl+Y", "undo, redo"],
  [".", "findings"],
  ["b", "what binds"],
  ["d", "unsaved differences"],
  ["[ and ]", "previous and next event"],
  ["Space", "run the bench"],
  ["t", "picture or table"],
  ["u", "units"],
  ["?", "these keys"],
];

export function KeyHelp() {
  const dialog = useRef<HTMLDialogElement>(null);
  useEffect(() => {
    const onKey = (e: KeyboardEvent): void => {
      const at = e.target as HTMLElement;
      if (e.key === "?" && !/^(INPUT|TEXTAREA|SELECT)$/.test(at.tagName)) dialog.current?.showModal();
    };
    window.addEventListener("keydown", onKey);
    return () => window.removeEventListener("keydown", onKey);
  }, []);
  return (
    <>
      <Button className="no-print" onClick={() => dialog.current?.showModal()}>
        Keys
      </Button>
      <dialog
        ref={dialog}
        className="m-auto p-5 bg-base-100 text-base-content border-2 border-base-content"
        aria-label="Keys"
      >
        <h2 className="text-xl mb-2">Keys</h2>
        <dl className="grid grid-cols-[auto_1fr] gap-x-6 gap-y-1">
          {KEYS.map(([k, words]) => (
            <div key={k} className="contents">
              <dt className="font-semibold">{k}</dt>
              <dd>{words}</dd>
            </div>
          ))}
        </dl>
        <p className="text-sm text-faint mt-3 max-w-prose">
          Presa opens no real valves: it computes settings, proves them on the bench and keeps the record. Its figures
          help a qualified person decide; they do not replace local codes, the maker's data sheet or an engineer.
        </p>
        <form method="dialog" className="mt-3">
          <Button rank="main" type="submit">
            Close
          </Button>
        </form>
      </dialog>
    </>
  );
}
