"use client";
import { Mark } from "@/components/kit/notice";
import { Plus, X, Circle } from "lucide-react";
import { HiddenFileInput, Input } from "@/components/kit/inputs";
import { Button } from "@/components/kit/button";
import { Table } from "@/components/kit/table";
import { clean } from "@/core/site-file/patch";
import { useEffect, useMemo, useRef, useState } from "react";

import { fileStem, saveText } from "@/components/kit/save-file";
import { freshId } from "@/core/site-file/fresh-id";
import { useWorkspace } from "@/components/draft/site-draft";
import { check } from "@/core/check/check";
import type { Station } from "@/core/site-file/schema";
import { COLUMNS } from "./columns";
import { duplicateNumbers, type Paste, pasteStations, stationsCsv } from "./paste";
import { PastePreview } from "./paste-preview";
import { StationSheet } from "./station-sheet";

const ROW_PX = 31;
/** Rows drawn beyond the edges of the view, so that a key or a wheel finds them ready. */
const SPARE_ROWS = 12;
type Cell = { row: number; column: number };

/** A dense grid: edit in place, paste from a spreadsheet, fill down, undo; keyboard first. */
export function StationsScreen() {
  const { draft, edit, units, canEdit } = useWorkspace("draft", "edit", "units", "canEdit");
  const [find, setFind] = useState("");
  const [at, setAt] = useState<Cell>({ row: 0, column: 0 });
  const [anchor, setAnchor] = useState<Cell | null>(null);
  const [typing, setTyping] = useState<string | null>(null);
  const [sort, setSort] = useState<{ key: string; down: boolean } | null>(null);
  const [aids, setAids] = useState(false);
  const [preview, setPreview] = useState<Paste | null>(null);
  const [said, setSaid] = useState<{ bad: boolean; lines: string[] } | null>(null);
  const grid = useRef<HTMLTableElement>(null);
  const shown = useMemo(() => {
    const words = find
      .toLowerCase()
      .split(/\s+/)
      .filter((w) => w !== "");
    const found =
      words.length === 0
        ? draft.stations
        : draft.stations.filter((s) => {
            const all = COLUMNS.map((c) => c.text(s, draft, units))
              .join(" ")
              .toLowerCase();
            return words.every((w) => all.includes(w));
          });
    const column = COLUMNS.find((c) => c.key === sort?.key);
    if (!column || !sort) return found;
    const value = (s: Station): string => column.text(s, draft, units);
    return [...found].sort(
      (x, y) =>
        (sort.down ? -1 : 1) *
        (column.numeric
          ? (Number.parseFloat(value(x)) || 0) - (Number.parseFloat(value(y)) || 0)
          : value(x).localeCompare(value(y))),
    );
  }, [draft, find, sort, units]);
  const findings = useMemo(
    () =>
      new Map(
        check(draft)
          .filter((f) => f.severity !== "note")
          .map((f) => [f.subjectId, f]),
      ),
    [draft],
  );
  const inProgram = useMemo(
    () => new Set(draft.programs.flatMap((p) => p.runs.map((r) => r.stationId))),
    [draft.programs],
  );

  // Only the rows in view are drawn; the others are two spacers.
  const scroller = useRef<HTMLDivElement>(null);
  const [view, setView] = useState({ top: 0, height: 600 });
  useEffect(() => {
    const box = scroller.current;
    if (!box) return;
    const read = (): void => setView({ top: box.scrollTop, height: box.clientHeight });
    read();
    box.addEventListener("scroll", read, { passive: true });
    const seen = new ResizeObserver(read);
    seen.observe(box);
    return () => {
      box.removeEventListener("scroll", read);
      seen.disconnect();
    };
  }, []);
  const firstRow = Math.max(0, Math.floor(view.top / ROW_PX) - SPARE_ROWS);
  const lastRow = Math.min(shown.length, Math.ceil((view.top + view.height) / ROW_PX) + SPARE_ROWS);
  const drawn = shown.slice(firstRow, lastRow).map((s, i) => [s, firstRow + i] as const);
  useEffect(() => {
    const box = scroller.current;
    if (!box) return;
    const y = at.row * ROW_PX;
    if (y < box.scrollTop) box.scrollTop = y;
    else if (y + 2 * ROW_PX > box.scrollTop + box.clientHeight - ROW_PX)
      box.scrollTop = y + 3 * ROW_PX - box.clientHeight;
  }, [at.row]);
  useEffect(() => {
    if (typing !== null) return;
    const active = document.activeElement;
    if (active && grid.current?.contains(active))
      grid.current.querySelector<HTMLElement>(`[data-cell="${at.row}-${at.column}"]`)?.focus();
  }, [at, typing, firstRow]);

  const chosen = shown[at.row];
  const from = Math.min(at.row, anchor?.row ?? at.row);
  const to = Math.max(at.row, anchor?.row ?? at.row);
  const inRange = (row: number, column: number): boolean =>
    anchor !== null && column === at.column && row >= from && row <= to;

  const put = (rows: Station[], column: number, text: string): boolean => {
    const spec = COLUMNS[column];
    if (!spec) return false;
    const parsed = spec.parse(text, draft, units);
    if (!parsed.ok) {
      setSaid({
        bad: true,
        lines: [`${rows[0] ? `Station ${rows[0].number}` : ""}: ${parsed.why}. The cell keeps its value.`],
      });
      return false;
    }
    const ids = new Set(rows.map((r) => r.id));
    const next = draft.stations.map((s) => (ids.has(s.id) ? clean({ ...s, ...parsed.values }) : s));
    const twice =
      spec.key === "number" || spec.key === "controllerId"
        ? duplicateNumbers(next).filter((n) => !duplicateNumbers(draft.stations).includes(n))
        : [];
    if (twice.length > 0) {
      setSaid({
        bad: true,
        lines: [
          `Number ${twice[0]} is already used on that controller. Each station needs its own; the cell keeps its value.`,
        ],
      });
      return false;
    }
    setSaid(null);
    // Enter and the blur that follows it both bring the cell here; the second changes nothing and must not cost an undo.
    edit((file) => {
      const stations = file.stations.map((s) => (ids.has(s.id) ? clean({ ...s, ...parsed.values }) : s));
      return JSON.stringify(stations) === JSON.stringify(file.stations) ? file : { ...file, stations };
    });
    return true;
  };

  const move = (dRow: number, dColumn: number, extend = false): void => {
    setAnchor(extend ? (anchor ?? at) : null);
    setAt({
      row: Math.max(0, Math.min(shown.length - 1, at.row + dRow)),
      column: Math.max(0, Math.min(COLUMNS.length - 1, at.column + dColumn)),
    });
  };
  const finish = (dRow: number, dColumn: number): void => {
    const here = shown[at.row];
    const untouched = here !== undefined && typing === COLUMNS[at.column]?.text(here, draft, units);
    // With several rows marked, what is typed goes into all of them.
    const rows = to > from ? shown.slice(from, to + 1) : here ? [here] : [];
    if (typing !== null && rows.length > 0 && (!untouched || rows.length > 1) && !put(rows, at.column, typing)) return;
    setTyping(null);
    move(dRow, dColumn);
    grid.current?.querySelector<HTMLElement>(`[data-cell="${at.row}-${at.column}"]`)?.focus();
  };
  const onKey = (e: React.KeyboardEvent): void => {
    if (typing !== null) {
      if (e.key === "Enter") {
        e.preventDefault();
        finish(1, 0);
      } else if (e.key === "Tab") {
        e.preventDefault();
        finish(0, e.shiftKey ? -1 : 1);
      } else if (e.key === "Escape") setTyping(null);
      return;
    }
    const arrows: Record<string, [number, number]> = {
      ArrowUp: [-1, 0],
      ArrowDown: [1, 0],
      ArrowLeft: [0, -1],
      ArrowRight: [0, 1],
    };
    const step = arrows[e.key];
    if (step) {
      e.preventDefault();
      move(step[0], step[1], e.shiftKey);
      return;
    }
    if (!canEdit) return;
    const here = shown[at.row];
    const column = COLUMNS[at.column];
    if (e.ctrlKey && e.key.toLowerCase() === "d") {
      e.preventDefault();
      const first = shown[from];
      if (first && column) put(shown.slice(from, to + 1), at.column, column.text(first, draft, units));
    } else if (e.ctrlKey || e.metaKey || e.altKey) return;
    else if ((e.key === "Enter" || e.key === "F2") && here && column) {
      e.preventDefault();
      setTyping(column.text(here, draft, units));
    } else if (e.key === "Delete" && column) put(shown.slice(from, to + 1), at.column, "");
    else if (e.key.length === 1 && here) {
      e.preventDefault();
      e.stopPropagation();
      setTyping(e.key);
    }
  };
  const take = (text: string, place: Cell): void => {
    const pasted = pasteStations(draft, text, place, units);
    if (!pasted.ok) return setSaid({ bad: true, lines: ["Nothing was pasted:", ...pasted.refused.slice(0, 8)] });
    setSaid(null);
    // What only adds, or only fills empty cells, can be undone at once; what would overwrite or is refused in part is shown first.
    if (pasted.refused.length > 0 || pasted.cells.some((c) => c.from !== "")) setPreview(pasted);
    else accept(pasted);
  };
  const accept = (pasted: Paste): void => {
    edit(() => pasted.file);
    setPreview(null);
    setSaid({ bad: false, lines: [`Pasted: ${pasted.added} added, ${pasted.changed} changed. Ctrl+Z undoes it.`] });
  };
  const onPaste = (e: React.ClipboardEvent): void => {
    if (typing !== null || !canEdit) return;
    e.preventDefault();
    const rowInFile = shown[at.row]
      ? draft.stations.findIndex((s) => s.id === shown[at.row]?.id)
      : draft.stations.length;
    take(e.clipboardData.getData("text/plain"), { row: rowInFile, column: at.column });
  };
  const onCopy = (e: React.ClipboardEvent): void => {
    if (typing !== null) return;
    e.preventDefault();
    const rows = shown.slice(from, to + 1);
    const column = COLUMNS[at.column];
    e.clipboardData.setData(
      "text/plain",
      anchor && column
        ? rows.map((r) => column.text(r, draft, units)).join("\n")
        : [COLUMNS.map((c) => c.title(units)), ...shown.map((s) => COLUMNS.map((c) => c.text(s, draft, units)))]
            .map((r) => r.join("\t"))
            .join("\n"),
    );
  };
  const add = (): void => {
    const controllerId = draft.controllers[0]?.id;
    const mainlineId = draft.mainlines[0]?.id;
    if (!controllerId || !mainlineId)
      return setSaid({
        bad: true,
        lines: ["A station needs a controller and a mainline. Add them on Waterworks first."],
      });
    const last = draft.stations[draft.stations.length - 1];
    edit((file) => ({
      ...file,
      stations: [
        ...file.stations,
        {
          id: freshId(file, "station"),
          number: Math.max(0, ...file.stations.map((s) => s.number)) + 1,
          name: "",
          controllerId: last?.controllerId ?? controllerId,
          mainlineId: last?.mainlineId ?? mainlineId,
        },
      ],
    }));
    setFind("");
    setAt({ row: draft.stations.length, column: 1 });
  };
  const drop = (): void => {
    const ids = new Set(shown.slice(from, to + 1).map((s) => s.id));
    edit((file) => ({
      ...file,
      stations: file.stations.filter((s) => !ids.has(s.id)),
      programs: file.programs.map((p) => ({ ...p, runs: p.runs.filter((r) => !ids.has(r.stationId)) })),
      ...(file.wireReadings ? { wireReadings: file.wireReadings.filter((r) => !ids.has(r.subjectId)) } : {}),
      ...(file.setRatios ? { setRatios: file.setRatios.filter((r) => !r.stationIds.some((id) => ids.has(id))) } : {}),
    }));
    setAnchor(null);
  };

  return (
    <>
      <div className="flex flex-wrap items-end gap-3 mb-2">
        <h2 className="text-xl mr-3">Stations</h2>
        <label className="w-56">
          <span className="block text-sm text-faint">Find</span>
          <Input
            data-find
            value={find}
            onChange={(e) => {
              setFind(e.target.value);
              setAt({ row: 0, column: at.column });
              setAnchor(null);
            }}
          />
        </label>
        {canEdit && (
          <Button icon={Plus} onClick={add}>
            Station
          </Button>
        )}
        {canEdit && (
          <Button disabled={shown.length === 0} onClick={drop}>
            Delete {to > from ? `${to - from + 1} stations` : "station"}
          </Button>
        )}
        <Button
          disabled={draft.stations.length === 0}
          onClick={() => saveText(stationsCsv(draft, units), `${fileStem(draft)}-stations.csv`, "text/csv")}
        >
          Save CSV
        </Button>
        {canEdit && (
          <label className="cursor-pointer focus-within:outline-2">
            Read CSV
            <HiddenFileInput
              accept=".csv,.txt,text/csv"
              onChange={async (e) => {
                const file = e.target.files?.[0];
                e.target.value = "";
                if (file) take(await file.text(), { row: draft.stations.length, column: 0 });
              }}
            />
          </label>
        )}
        <Button aria-expanded={aids} onClick={() => setAids(!aids)}>
          Aids
        </Button>
        {sort && (
          <Button rank="quiet" onClick={() => setSort(null)}>
            File order
          </Button>
        )}
        <span className="text-sm text-faint max-w-prose">
          Type or press Enter to edit; paste rows from a spreadsheet, with or without headings; Shift+arrows mark rows:
          typing changes all of them, Ctrl+D fills down. A heading sorts.
        </span>
      </div>
      {said && (
        <div role={said.bad ? "alert" : "status"} className={`mb-2 ${said.bad ? "text-error font-semibold" : ""}`}>
          {said.lines.map((l) => (
            <p key={l}>{l}</p>
          ))}
        </div>
      )}
      {preview && <PastePreview paste={preview} onTake={() => accept(preview)} onCancel={() => setPreview(null)} />}
      <div className={chosen && aids ? "grid xl:grid-cols-[minmax(0,1fr)_20rem] gap-4" : ""}>
        <div ref={scroller} className="overflow-auto max-h-[calc(100dvh-17rem)] border border-base-300">
          <Table
            ref={grid}
            role="grid"
            aria-label="Stations"
            aria-rowcount={shown.length + 1}
            onKeyDown={onKey}
            onPaste={onPaste}
            onCopy={onCopy}
          >
            <thead>
              <tr>
                {COLUMNS.map((c) => (
                  <th
                    key={c.key}
                    aria-sort={sort?.key === c.key ? (sort.down ? "descending" : "ascending") : undefined}
                    className={c.numeric ? "text-right" : ""}
                    style={{ minWidth: c.width }}
                  >
                    <Button
                      rank="bare"
                      tabIndex={-1}
                      className="cursor-pointer font-semibold"
                      onClick={() => {
                        setSort(
                          sort?.key === c.key
                            ? sort.down
                              ? null
                              : { key: c.key, down: true }
                            : { key: c.key, down: false },
                        );
                        setAnchor(null);
                      }}
                    >
                      {c.title(units)}
                      {sort?.key === c.key ? (sort.down ? " " : " ") : ""}
                    </Button>
                  </th>
                ))}
                <th>State</th>
              </tr>
            </thead>
            <tbody>
              {firstRow > 0 && <Spacer px={firstRow * ROW_PX} />}
              {drawn.map(([s, row]) => (
                <tr key={s.id} aria-rowindex={row + 2} style={{ height: ROW_PX }}>
                  {COLUMNS.map((c, column) => {
                    const here = row === at.row && column === at.column;
                    const text = c.text(s, draft, units);
                    return (
                      <td
                        key={c.key}
                        role="gridcell"
                        data-cell={`${row}-${column}`}
                        data-station={s.number}
                        data-column={c.key}
                        tabIndex={here ? 0 : -1}
                        className={`${c.numeric ? "text-right" : ""} ${here ? "outline-2 outline-[var(--water)] -outline-offset-1" : ""} ${inRange(row, column) ? "bg-base-200" : ""} whitespace-nowrap cursor-cell`}
                        onClick={(e) => {
                          setAnchor(e.shiftKey ? (anchor ?? at) : null);
                          if (typing !== null && !here) finish(0, 0);
                          setAt({ row, column });
                          if (!(here && typing !== null)) (e.currentTarget as HTMLElement).focus();
                        }}
                        onDoubleClick={() => canEdit && setTyping(text)}
                      >
                        {here && typing !== null ? (
                          <Editor
                            column={column}
                            text={typing}
                            onText={setTyping}
                            onDone={() => finish(0, 0)}
                            choices={c.choices?.(draft)}
                            label={`${c.title(units)} of station ${s.number}`}
                          />
                        ) : (
                          text
                        )}
                      </td>
                    );
                  })}
                  <td className="whitespace-nowrap text-sm">
                    {s.lockedOut ? (
                      <strong className="text-error">
                        <X className="inline size-[1em] align-[-0.12em]" aria-hidden /> locked out
                      </strong>
                    ) : findings.has(s.id) ? (
                      <span className="text-warning" title={findings.get(s.id)?.message}>
                        <Mark tone="caution" />{" "}
                        {findings.get(s.id)?.code === "noFlow" ? "no flow figure" : "see findings"}
                      </span>
                    ) : inProgram.has(s.id) ? (
                      ""
                    ) : (
                      <span className="text-faint">
                        <Circle className="inline size-[1em] align-[-0.12em]" aria-hidden /> in no program
                      </span>
                    )}
                  </td>
                </tr>
              ))}
              {lastRow < shown.length && <Spacer px={(shown.length - lastRow) * ROW_PX} />}
              {shown.length === 0 && (
                <tr>
                  <td role="gridcell" tabIndex={0} data-cell="0-0" colSpan={COLUMNS.length + 1} className="py-8">
                    {draft.stations.length > 0
                      ? "No station matches the search."
                      : draft.mainlines.length === 0 || draft.controllers.length === 0
                        ? "First draw a mainline and a controller on Waterworks; then list the stations here."
                        : "No stations yet. Click here and paste them from a spreadsheet (headings like No., Name, Design, Mainline are understood), or add them one by one."}
                  </td>
                </tr>
              )}
            </tbody>
          </Table>
        </div>
        {chosen && aids && <StationSheet key={chosen.id} station={chosen} />}
      </div>
    </>
  );
}

/** Stands for the rows out of view. */
function Spacer({ px }: { px: number }) {
  return (
    <tr>
      <td colSpan={COLUMNS.length + 1} style={{ height: px, padding: 0, border: 0 }} />
    </tr>
  );
}

function Editor({
  text,
  onText,
  onDone,
  choices,
  label,
  column,
}: {
  text: string;
  onText: (t: string) => void;
  onDone: () => void;
  choices: [string, string][] | undefined;
  label: string;
  column: number;
}) {
  const id = `choices-${column}`;
  return (
    <>
      <Input
        autoFocus
        aria-label={label}
        className="!min-h-0 !py-0 min-w-20"
        list={choices ? id : undefined}
        value={text}
        onChange={(e) => onText(e.target.value)}
        onBlur={onDone}
        onFocus={(e) => {
          if (e.target.value.length > 1) e.target.select();
        }}
      />
      {choices && (
        <datalist id={id}>
          {choices.map(([v, words]) => (
            <option key={v} value={words} />
          ))}
        </datalist>
      )}
    </>
  );
}
