"use client";
import { found } from "@/components/kit/find-words";
import { useCallback, useEffect, useMemo, useRef, useState } from "react";
import { useWorkspace } from "@/components/draft/site-draft";
import type { Station } from "@/core/site-file/schema";
import { COLUMNS } from "./columns";
import { addStation, dropStations, putCells } from "./grid-edits";
import { type Paste, pasteStations } from "./paste";
import type { Cell, Sort, Typing } from "./station-grid";

export type Said = { bad: boolean; lines: string[] };

/** Rows that a search finds, in the order asked for. */
function useShown(find: string, sort: Sort | null): Station[] {
  const { draft, units } = useWorkspace("draft", "units");
  return useMemo(() => {
    const shown = found(
      draft.stations,
      find,
      (s) => `${s.number} ${s.name}`,
      (s) => COLUMNS.map((c) => c.text(s, draft, units)).join(" "),
    );
    const column = COLUMNS.find((c) => c.key === sort?.key);
    if (!column || !sort) return shown;
    const value = (s: Station): string => column.text(s, draft, units);
    const order = column.numeric
      ? (x: Station, y: Station) => (Number.parseFloat(value(x)) || 0) - (Number.parseFloat(value(y)) || 0)
      : (x: Station, y: Station) => value(x).localeCompare(value(y));
    return [...shown].sort((x, y) => (sort.down ? -1 : 1) * order(x, y));
  }, [draft, find, sort, units]);
}

const ARROWS: Record<string, readonly [number, number]> = {
  ArrowUp: [-1, 0],
  ArrowDown: [1, 0],
  ArrowLeft: [0, -1],
  ArrowRight: [0, 1],
};

/** Everything that the grid of stations does: where one stands, what is marked, typed, pasted, filled down, sorted and found. */
export function useGrid() {
  const { draft, edit, units, canEdit } = useWorkspace("draft", "edit", "units", "canEdit");
  const [find, setFind] = useState("");
  const [sort, setSort] = useState<Sort | null>(null);
  const [at, setAt] = useState<Cell>({ row: 0, column: 0 });
  const [anchor, setAnchor] = useState<Cell | null>(null);
  const [typing, setTyping] = useState<Typing | null>(null);
  const [preview, setPreview] = useState<Paste | null>(null);
  const [said, setSaid] = useState<Said | null>(null);
  const rows = useShown(find, sort);
  const from = Math.min(at.row, anchor?.row ?? at.row);
  const to = Math.max(at.row, anchor?.row ?? at.row);
  const marked = rows.slice(from, to + 1);

  const bad = (...lines: string[]): void => setSaid({ bad: true, lines });
  const put = (stations: readonly Station[], column: number, text: string): boolean => {
    const outcome = putCells(draft, stations, column, text, units);
    if (!outcome.ok) {
      bad(outcome.why);
      return false;
    }
    setSaid(null);
    edit(() => outcome.file);
    return true;
  };
  const move = (dRow: number, dColumn: number, extend = false): void => {
    setAnchor(extend ? (anchor ?? at) : null);
    setAt({
      row: Math.max(0, Math.min(rows.length - 1, at.row + dRow)),
      column: Math.max(0, Math.min(COLUMNS.length - 1, at.column + dColumn)),
    });
  };
  const typed = (text: string, dRow: number, dColumn: number): void => {
    const here = rows[at.row];
    const untouched = here !== undefined && text === COLUMNS[at.column]?.text(here, draft, units);
    // With several rows marked, what is typed goes into all of them.
    if (here && (!untouched || marked.length > 1) && !put(marked, at.column, text)) return;
    setTyping(null);
    move(dRow, dColumn);
  };
  const fillDown = (): void => {
    const first = rows[from];
    const column = COLUMNS[at.column];
    if (first && column) put(marked, at.column, column.text(first, draft, units));
  };
  const onKeyDown = (e: React.KeyboardEvent): void => {
    if (typing !== null) return;
    const step = ARROWS[e.key];
    if (step) {
      e.preventDefault();
      move(step[0], step[1], e.shiftKey);
      return;
    }
    const here = rows[at.row];
    if (!canEdit || !here) return;
    if (e.ctrlKey && e.key.toLowerCase() === "d") {
      e.preventDefault();
      fillDown();
    } else if (e.ctrlKey || e.metaKey || e.altKey) return;
    else if (e.key === "Enter" || e.key === "F2") {
      e.preventDefault();
      setTyping({ first: null });
    } else if (e.key === "Delete") put(marked, at.column, "");
    else if (e.key.length === 1) {
      e.preventDefault();
      e.stopPropagation();
      setTyping({ first: e.key });
    }
  };
  const accept = (pasted: Paste): void => {
    edit(() => pasted.file);
    setPreview(null);
    setSaid({ bad: false, lines: [`Pasted: ${pasted.added} added, ${pasted.changed} changed. Ctrl+Z undoes it.`] });
  };
  const take = (text: string, place: Cell): void => {
    const pasted = pasteStations(draft, text, place, units);
    if (!pasted.ok) {
      bad("Nothing was pasted:", ...pasted.refused.slice(0, 8));
      return;
    }
    setSaid(null);
    // What only adds, or only fills empty cells, can be undone at once; what would overwrite or is refused in part is shown first.
    if (pasted.refused.length > 0 || pasted.cells.some((c) => c.from !== "")) setPreview(pasted);
    else accept(pasted);
  };
  const onPaste = (e: React.ClipboardEvent): void => {
    if (typing !== null || !canEdit) return;
    e.preventDefault();
    const id = rows[at.row]?.id;
    const row = id === undefined ? draft.stations.length : draft.stations.findIndex((s) => s.id === id);
    take(e.clipboardData.getData("text/plain"), { row, column: at.column });
  };
  const onCopy = (e: React.ClipboardEvent): void => {
    if (typing !== null) return;
    e.preventDefault();
    const column = COLUMNS[at.column];
    const table = (): string =>
      [COLUMNS.map((c) => c.title(units)), ...rows.map((s) => COLUMNS.map((c) => c.text(s, draft, units)))]
        .map((r) => r.join("\t"))
        .join("\n");
    const text = anchor && column ? marked.map((r) => column.text(r, draft, units)).join("\n") : table();
    e.clipboardData.setData("text/plain", text);
  };
  const add = (): void => {
    const next = addStation(draft);
    if (!next) {
      bad("A station needs a controller and a mainline. Add them on Waterworks first.");
      return;
    }
    edit(() => next);
    setFind("");
    setAnchor(null);
    setAt({ row: draft.stations.length, column: 1 });
  };
  const drop = (): void => {
    edit((file) => dropStations(file, new Set(marked.map((s) => s.id))));
    setAnchor(null);
  };
  const turnSort = (key: string): void => {
    setAnchor(null);
    setSort((s) => {
      if (s?.key !== key) return { key, down: false };
      return s.down ? null : { key, down: true };
    });
  };

  // Rows get functions that stay the same, so that a key or an edit draws only the rows it touches.
  const latest = useRef({ typed, at, anchor });
  useEffect(() => {
    latest.current = { typed, at, anchor };
  });
  const onTyped = useCallback((text: string, dRow: number, dColumn: number): void => {
    latest.current.typed(text, dRow, dColumn);
  }, []);
  const onAt = useCallback((cell: Cell, extend: boolean): void => {
    const now = latest.current;
    setAnchor(extend ? (now.anchor ?? now.at) : null);
    setAt((before) => (before.row === cell.row && before.column === cell.column ? before : cell));
  }, []);
  const search = (text: string): void => {
    setFind(text);
    setAt((c) => ({ row: 0, column: c.column }));
    setAnchor(null);
  };

  return {
    rows,
    at,
    marked,
    range: anchor ? ([from, to] as const) : null,
    typing,
    sort,
    find,
    preview,
    said,
    search,
    unsort: () => setSort(null),
    turnSort,
    goTo: (id: string) => {
      const row = rows.findIndex((s) => s.id === id);
      if (row >= 0) setAt({ row, column: 1 });
    },
    take,
    accept,
    refuse: () => setPreview(null),
    add,
    drop,
    onAt,
    onTyping: setTyping,
    onTyped,
    onKeyDown,
    onPaste,
    onCopy,
  };
}
