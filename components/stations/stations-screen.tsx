"use client";
import { useEffect, useMemo, useRef, useState } from "react";
import { clean } from "@/components/waterworks/edits";
import { freshId } from "@/components/workspace/fresh-id";
import { useWorkspace } from "@/components/workspace/workspace";
import { check } from "@/core/check/check";
import type { Station } from "@/core/site-file/schema";
import { COLUMNS } from "./columns";
import { duplicateNumbers, pasteStations } from "./paste";

type Cell = { row: number; column: number };

/** A dense grid: edit in place, paste from a spreadsheet, fill down, undo; keyboard first. */
export function StationsScreen() {
  const { draft, edit, units, canEdit } = useWorkspace();
  const [find, setFind] = useState("");
  const [at, setAt] = useState<Cell>({ row: 0, column: 0 });
  const [anchor, setAnchor] = useState<Cell | null>(null);
  const [typing, setTyping] = useState<string | null>(null);
  const [said, setSaid] = useState<{ bad: boolean; lines: string[] } | null>(null);
  const grid = useRef<HTMLTableElement>(null);
  const shown = useMemo(() => {
    const plain = find.toLowerCase();
    return draft.stations.filter((s) => plain === "" || `${s.number} ${s.name} ${s.planting ?? ""} ${s.emitter ?? ""}`.toLowerCase().includes(plain));
  }, [draft.stations, find]);
  const findings = useMemo(() => new Map(check(draft).filter((f) => f.severity !== "note").map((f) => [f.subjectId, f])), [draft]);
  const inProgram = useMemo(() => new Set(draft.programs.flatMap((p) => p.runs.map((r) => r.stationId))), [draft.programs]);

  useEffect(() => {
    if (typing !== null) return;
    const active = document.activeElement;
    if (active && grid.current?.contains(active)) grid.current.querySelector<HTMLElement>(`[data-cell="${at.row}-${at.column}"]`)?.focus();
  }, [at, typing]);

  const from = Math.min(at.row, anchor?.row ?? at.row);
  const to = Math.max(at.row, anchor?.row ?? at.row);
  const inRange = (row: number, column: number): boolean => anchor !== null && column === at.column && row >= from && row <= to;

  const put = (rows: Station[], column: number, text: string): boolean => {
    const spec = COLUMNS[column];
    if (!spec) return false;
    const parsed = spec.parse(text, draft, units);
    if (!parsed.ok) {
      setSaid({ bad: true, lines: [`${rows[0] ? `Station ${rows[0].number}` : ""}: ${parsed.why}. The cell keeps its value.`] });
      return false;
    }
    const ids = new Set(rows.map((r) => r.id));
    const next = draft.stations.map((s) => (ids.has(s.id) ? clean({ ...s, ...parsed.values }) : s));
    const twice = spec.key === "number" || spec.key === "controllerId" ? duplicateNumbers(next).filter((n) => !duplicateNumbers(draft.stations).includes(n)) : [];
    if (twice.length > 0) {
      setSaid({ bad: true, lines: [`Number ${twice[0]} is already used on that controller. Each station needs its own; the cell keeps its value.`] });
      return false;
    }
    setSaid(null);
    edit((file) => ({ ...file, stations: next }));
    return true;
  };

  const move = (dRow: number, dColumn: number, extend = false): void => {
    setAnchor(extend ? (anchor ?? at) : null);
    setAt({ row: Math.max(0, Math.min(shown.length - 1, at.row + dRow)), column: Math.max(0, Math.min(COLUMNS.length - 1, at.column + dColumn)) });
  };
  const finish = (dRow: number, dColumn: number): void => {
    const here = shown[at.row];
    const untouched = here !== undefined && typing === COLUMNS[at.column]?.text(here, draft, units);
    if (typing !== null && here && !untouched && !put([here], at.column, typing)) return;
    setTyping(null);
    move(dRow, dColumn);
    grid.current?.querySelector<HTMLElement>(`[data-cell="${at.row}-${at.column}"]`)?.focus();
  };
  const onKey = (e: React.KeyboardEvent): void => {
    if (typing !== null) {
      if (e.key === "Enter") { e.preventDefault(); finish(1, 0); }
      else if (e.key === "Tab") { e.preventDefault(); finish(0, e.shiftKey ? -1 : 1); }
      else if (e.key === "Escape") setTyping(null);
      return;
    }
    const arrows: Record<string, [number, number]> = { ArrowUp: [-1, 0], ArrowDown: [1, 0], ArrowLeft: [0, -1], ArrowRight: [0, 1] };
    const step = arrows[e.key];
    if (step) { e.preventDefault(); move(step[0], step[1], e.shiftKey); return; }
    if (!canEdit) return;
    const here = shown[at.row];
    const column = COLUMNS[at.column];
    if (e.ctrlKey && e.key.toLowerCase() === "d") {
      e.preventDefault();
      const first = shown[from];
      if (first && column) put(shown.slice(from, to + 1), at.column, column.text(first, draft, units));
    } else if (e.ctrlKey || e.metaKey || e.altKey) return;
    else if ((e.key === "Enter" || e.key === "F2") && here && column) { e.preventDefault(); setTyping(column.text(here, draft, units)); }
    else if (e.key === "Delete" && column) put(shown.slice(from, to + 1), at.column, "");
    else if (e.key.length === 1 && here) { e.preventDefault(); e.stopPropagation(); setTyping(e.key); }
  };
  const onPaste = (e: React.ClipboardEvent): void => {
    if (typing !== null || !canEdit) return;
    e.preventDefault();
    const rowInFile = shown[at.row] ? draft.stations.findIndex((s) => s.id === shown[at.row]?.id) : draft.stations.length;
    const pasted = pasteStations(draft, e.clipboardData.getData("text/plain"), { row: rowInFile, column: at.column }, units);
    if (!pasted.ok) setSaid({ bad: true, lines: ["Nothing was pasted:", ...pasted.refused.slice(0, 8), ...(pasted.refused.length > 8 ? [`and ${pasted.refused.length - 8} more`] : [])] });
    else {
      edit(() => pasted.file);
      setSaid({ bad: false, lines: [`Pasted: ${pasted.added} added, ${pasted.changed} changed. Ctrl+Z undoes it.`] });
    }
  };
  const onCopy = (e: React.ClipboardEvent): void => {
    if (typing !== null) return;
    e.preventDefault();
    const rows = shown.slice(from, to + 1);
    const column = COLUMNS[at.column];
    e.clipboardData.setData("text/plain", anchor && column ? rows.map((r) => column.text(r, draft, units)).join("\n") : [COLUMNS.map((c) => c.title(units)), ...shown.map((s) => COLUMNS.map((c) => c.text(s, draft, units)))].map((r) => r.join("\t")).join("\n"));
  };
  const add = (): void => {
    const controllerId = draft.controllers[0]?.id;
    const mainlineId = draft.mainlines[0]?.id;
    if (!controllerId || !mainlineId) return setSaid({ bad: true, lines: ["A station needs a controller and a mainline. Add them on Waterworks first."] });
    const last = draft.stations[draft.stations.length - 1];
    edit((file) => ({
      ...file,
      stations: [...file.stations, { id: freshId(file, "station"), number: Math.max(0, ...file.stations.map((s) => s.number)) + 1, name: "", controllerId: last?.controllerId ?? controllerId, mainlineId: last?.mainlineId ?? mainlineId }],
    }));
    setFind("");
    setAt({ row: draft.stations.length, column: 1 });
  };
  const drop = (): void => {
    const ids = new Set(shown.slice(from, to + 1).map((s) => s.id));
    edit((file) => ({ ...file, stations: file.stations.filter((s) => !ids.has(s.id)), programs: file.programs.map((p) => ({ ...p, runs: p.runs.filter((r) => !ids.has(r.stationId)) })), ...(file.wireReadings ? { wireReadings: file.wireReadings.filter((r) => !ids.has(r.subjectId)) } : {}) }));
    setAnchor(null);
  };

  return (
    <>
      <div className="flex flex-wrap items-end gap-3 mb-2">
        <h2 className="text-2xl mr-3">Stations</h2>
        <label className="w-56"><span className="block text-sm faint">Find</span><input data-find className="entry" value={find} onChange={(e) => { setFind(e.target.value); setAt({ row: 0, column: at.column }); setAnchor(null); }} /></label>
        {canEdit && <button type="button" className="act" onClick={add}>+ Station</button>}
        {canEdit && <button type="button" className="act" disabled={shown.length === 0} onClick={drop}>Delete {to > from ? `${to - from + 1} stations` : "station"}</button>}
        <span className="text-sm faint max-w-prose">Type or press Enter to edit; paste rows from a spreadsheet, with or without headings; Shift+arrows and Ctrl+D fill down.</span>
      </div>
      {said && <div role={said.bad ? "alert" : "status"} className={`mb-2 ${said.bad ? "text-error font-semibold" : ""}`}>{said.lines.map((l) => <p key={l}>{l}</p>)}</div>}
      <div className="overflow-auto max-h-[calc(100dvh-17rem)] border rule">
        <table ref={grid} role="grid" aria-label="Stations" className="sheet" onKeyDown={onKey} onPaste={onPaste} onCopy={onCopy}>
          <thead><tr>{COLUMNS.map((c) => <th key={c.key} className={c.numeric ? "num" : ""} style={{ minWidth: c.width }}>{c.title(units)}</th>)}<th>State</th></tr></thead>
          <tbody>
            {shown.map((s, row) => (
              <tr key={s.id}>
                {COLUMNS.map((c, column) => {
                  const here = row === at.row && column === at.column;
                  const text = c.text(s, draft, units);
                  return (
                    <td key={c.key} role="gridcell" data-cell={`${row}-${column}`} data-station={s.number} data-column={c.key} tabIndex={here ? 0 : -1}
                      className={`${c.numeric ? "num" : ""} ${here ? "outline-2 outline-[var(--water)] -outline-offset-1" : ""} ${inRange(row, column) ? "bg-base-200" : ""} whitespace-nowrap cursor-cell`}
                      onClick={(e) => { setAnchor(e.shiftKey ? (anchor ?? at) : null); if (typing !== null && !here) finish(0, 0); setAt({ row, column }); if (!(here && typing !== null)) (e.currentTarget as HTMLElement).focus(); }}
                      onDoubleClick={() => canEdit && setTyping(text)}>
                      {here && typing !== null ? <Editor column={column} text={typing} onText={setTyping} onDone={() => finish(0, 0)} choices={c.choices?.(draft)} label={`${c.title(units)} of station ${s.number}`} /> : text}
                    </td>
                  );
                })}
                <td className="whitespace-nowrap text-sm">{s.lockedOut ? <strong className="text-error">✕ locked out</strong> : findings.has(s.id) ? <span className="text-warning" title={findings.get(s.id)?.message}>▲ {findings.get(s.id)?.code === "noFlow" ? "no flow figure" : "see findings"}</span> : inProgram.has(s.id) ? "" : <span className="faint">○ in no program</span>}</td>
              </tr>
            ))}
            {shown.length === 0 && (
              <tr><td role="gridcell" tabIndex={0} data-cell="0-0" colSpan={COLUMNS.length + 1} className="py-8">
                {draft.stations.length > 0 ? "No station matches the search." : draft.mainlines.length === 0 || draft.controllers.length === 0 ? "First draw a mainline and a controller on Waterworks; then list the stations here." : "No stations yet. Click here and paste them from a spreadsheet (headings like No., Name, Design, Mainline are understood), or add them one by one."}
              </td></tr>
            )}
          </tbody>
        </table>
      </div>
    </>
  );
}

function Editor({ text, onText, onDone, choices, label, column }: { text: string; onText: (t: string) => void; onDone: () => void; choices?: [string, string][]; label: string; column: number }) {
  const id = `choices-${column}`;
  return (
    <>
      <input autoFocus aria-label={label} className="entry !min-h-0 !py-0 min-w-20" list={choices ? id : undefined} value={text} onChange={(e) => onText(e.target.value)} onBlur={onDone} onFocus={(e) => { if (e.target.value.length > 1) e.target.select(); }} />
      {choices && <datalist id={id}>{choices.map(([v, words]) => <option key={v} value={words} />)}</datalist>}
    </>
  );
}
