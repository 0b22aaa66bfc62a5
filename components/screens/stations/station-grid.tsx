"use client";
import { useVirtualizer } from "@tanstack/react-virtual";
import { ArrowDown, ArrowUp, Circle, Lock } from "lucide-react";
import { memo, useEffect, useRef, useState } from "react";
import { Button } from "@/components/kit/button";
import { classes } from "@/components/kit/classes";
import { Input } from "@/components/kit/inputs";
import { Mark } from "@/components/kit/notice";
import { Table } from "@/components/kit/table";
import type { Finding } from "@/core/check/finding";
import type { SiteFile, Station } from "@/core/site-file/schema";
import type { UnitSystem } from "@/core/units/units";
import { COLUMNS } from "./columns";

const ROW_PX = 30;
/** The first two columns stay where they are while the rest passes under them, px from the left. */
const FROZEN = [0, 56] as const;

export type Cell = { row: number; column: number };
export type Sort = { key: string; down: boolean };
/** A cell that is being typed in, and the letter it began with; null begins with what stands there. */
export type Typing = { first: string | null };

type Props = {
  file: SiteFile;
  rows: readonly Station[];
  units: UnitSystem;
  canEdit: boolean;
  at: Cell;
  /** Rows marked in the column of `at`, from and to. */
  marked: readonly [number, number] | null;
  typing: Typing | null;
  sort: Sort | null;
  findings: ReadonlyMap<string | null, Finding>;
  inProgram: ReadonlySet<string>;
  onAt: (cell: Cell, extend: boolean) => void;
  onSort: (key: string) => void;
  onTyping: (typing: Typing | null) => void;
  /** What was typed, and by how much to move on. */
  onTyped: (text: string, dRow: number, dColumn: number) => void;
  onKeyDown: (e: React.KeyboardEvent) => void;
  onPaste: (e: React.ClipboardEvent) => void;
  onCopy: (e: React.ClipboardEvent) => void;
  empty: string;
};

const SORTED = ["ascending", "descending"] as const;
/** From so many rows on only those in view are drawn. */
const VIRTUAL_FROM = 60;

/** The grid itself: heads and the first two columns stay in sight, and only rows in view are drawn. */
export function StationGrid(props: Props) {
  const { rows, units, at, typing, sort, marked, empty } = props;
  const box = useRef<HTMLDivElement>(null);
  const virtual = useVirtualizer({
    count: rows.length,
    getScrollElement: () => box.current,
    estimateSize: () => ROW_PX,
    overscan: 12,
    enabled: rows.length > VIRTUAL_FROM,
  });
  const { scrollToIndex } = virtual;
  useEffect(() => {
    if (rows.length > VIRTUAL_FROM) scrollToIndex(at.row);
  }, [at.row, rows.length, scrollToIndex]);
  const typed = useRef(false);
  useEffect(() => {
    if (typing !== null) {
      typed.current = true;
      return;
    }
    // The field that was typed in is gone and took the focus with it; whoever went elsewhere stays there.
    const active = document.activeElement;
    const mine = active === document.body ? typed.current : box.current?.contains(active);
    typed.current = false;
    if (mine) box.current?.querySelector<HTMLElement>(`[data-cell="${at.row}-${at.column}"]`)?.focus();
  }, [at, typing]);
  const items = virtual.getVirtualItems();
  const many = rows.length > VIRTUAL_FROM;
  const drawn = many ? items.flatMap((i) => rows[i.index] ?? []) : rows;
  const first = many ? (items[0]?.index ?? 0) : 0;
  const before = many ? (items[0]?.start ?? 0) : 0;
  const after = many ? virtual.getTotalSize() - (items.at(-1)?.end ?? 0) : 0;
  return (
    <div ref={box} className="max-h-[calc(100dvh-14rem)] overflow-auto border border-base-300">
      <Table
        role="grid"
        aria-label="Stations"
        aria-rowcount={rows.length + 1}
        className="border-separate border-spacing-0"
        onKeyDown={props.onKeyDown}
        onPaste={props.onPaste}
        onCopy={props.onCopy}
      >
        <thead>
          <tr>
            {COLUMNS.map((c, i) => (
              <th
                key={c.key}
                aria-sort={sort?.key === c.key ? SORTED[Number(sort.down)] : undefined}
                className={classes(c.numeric && "text-right", i < FROZEN.length && "z-[3]")}
                style={{ minWidth: i === 0 ? FROZEN[1] : c.width, left: FROZEN[i] }}
              >
                <Button
                  rank="bare"
                  tabIndex={-1}
                  className={classes("inline-flex items-center gap-1 font-semibold", c.numeric && "text-right")}
                  onClick={() => props.onSort(c.key)}
                >
                  {c.title(units)}
                  {sort?.key === c.key && sort.down && <ArrowDown className="size-3.5" aria-hidden />}
                  {sort?.key === c.key && !sort.down && <ArrowUp className="size-3.5" aria-hidden />}
                </Button>
              </th>
            ))}
            <th className="right-0 z-[3] min-w-28">State</th>
          </tr>
        </thead>
        <tbody>
          {before > 0 && <Spacer px={before} />}
          {drawn.map((station, i) => {
            const index = first + i;
            const here = index === at.row;
            return (
              <GridRow
                key={station.id}
                file={props.file}
                station={station}
                row={index}
                units={units}
                canEdit={props.canEdit}
                column={here ? at.column : null}
                markedColumn={marked && index >= marked[0] && index <= marked[1] ? at.column : null}
                typing={here ? typing : null}
                finding={props.findings.get(station.id)}
                inProgram={props.inProgram.has(station.id)}
                onAt={props.onAt}
                onTyping={props.onTyping}
                onTyped={props.onTyped}
              />
            );
          })}
          {after > 0 && <Spacer px={after} />}
          {rows.length === 0 && (
            <tr>
              {/* biome-ignore lint/a11y/noNoninteractiveElementToInteractiveRole: a grid over a table, as its pattern asks */}
              <td role="gridcell" tabIndex={0} data-cell="0-0" colSpan={COLUMNS.length + 1} className="py-8">
                {empty}
              </td>
            </tr>
          )}
        </tbody>
      </Table>
    </div>
  );
}

/** Stands for the rows out of view. */
function Spacer({ px }: { px: number }) {
  return (
    <tr aria-hidden>
      <td colSpan={COLUMNS.length + 1} style={{ height: px, padding: 0, border: 0 }} />
    </tr>
  );
}

type RowProps = Pick<Props, "file" | "units" | "canEdit" | "typing" | "onAt" | "onTyping" | "onTyped"> & {
  station: Station;
  row: number;
  column: number | null;
  markedColumn: number | null;
  finding: Finding | undefined;
  inProgram: boolean;
};

const GridRow = memo(function GridRow(props: RowProps) {
  const { file, station, row, units, canEdit, column, markedColumn, typing, onAt, onTyping, onTyped } = props;
  return (
    <tr aria-rowindex={row + 2} style={{ height: ROW_PX }}>
      {COLUMNS.map((c, i) => {
        const here = i === column;
        const text = c.text(station, file, units);
        return (
          // biome-ignore lint/a11y/useKeyWithClickEvents: the grid hears the keys of all its cells
          <td
            key={c.key}
            // biome-ignore lint/a11y/noNoninteractiveElementToInteractiveRole: a grid over a table, as the grid pattern asks
            role="gridcell"
            data-cell={`${row}-${i}`}
            data-station={station.number}
            data-column={c.key}
            tabIndex={here ? 0 : -1}
            style={{ left: FROZEN[i] }}
            className={classes(
              "cursor-cell whitespace-nowrap border-b border-base-300",
              c.numeric && "text-right",
              i < FROZEN.length && "sticky z-[2] bg-base-100",
              i === FROZEN.length - 1 && "border-r",
              i === markedColumn && "bg-base-200",
              here && "outline-2 -outline-offset-2 outline-primary",
            )}
            onClick={(e) => {
              onAt({ row, column: i }, e.shiftKey);
              if (!(here && typing !== null)) e.currentTarget.focus();
            }}
            onDoubleClick={() => canEdit && onTyping({ first: null })}
          >
            {here && typing !== null ? (
              <CellEditor
                id={`choices-${c.key}`}
                first={typing.first ?? text}
                choices={c.choices?.(file)}
                label={`${c.title(units)} of station ${station.number}`}
                onTyped={onTyped}
                onLeft={() => onTyping(null)}
              />
            ) : (
              (c.shown?.(text, units) ?? text)
            )}
          </td>
        );
      })}
      <td className="sticky right-0 z-[2] whitespace-nowrap border-b border-l border-base-300 bg-base-100 text-xs">
        <State station={station} finding={props.finding} inProgram={props.inProgram} />
      </td>
    </tr>
  );
});

function State({
  station,
  finding,
  inProgram,
}: {
  station: Station;
  finding: Finding | undefined;
  inProgram: boolean;
}) {
  if (station.lockedOut)
    return (
      <strong className="inline-flex items-center gap-1 text-error">
        <Lock className="size-3.5" aria-hidden /> locked out
      </strong>
    );
  if (finding)
    return (
      <span title={finding.message}>
        <Mark tone="caution">{finding.code === "noFlow" ? "no flow figure" : "see findings"}</Mark>
      </span>
    );
  if (inProgram) return null;
  return (
    <span className="inline-flex items-center gap-1 text-faint">
      <Circle className="size-3" aria-hidden /> in no program
    </span>
  );
}

/** The cell while it is typed in. What is typed stays here until it is done, so that a key draws nothing but the cell. */
function CellEditor({
  id,
  first,
  choices,
  label,
  onTyped,
  onLeft,
}: {
  id: string;
  first: string;
  choices: [string, string][] | undefined;
  label: string;
  onTyped: Props["onTyped"];
  onLeft: () => void;
}) {
  const [text, setText] = useState(first);
  const box = useRef<HTMLInputElement>(null);
  const done = useRef(false);
  useEffect(() => {
    box.current?.focus();
    if ((box.current?.value.length ?? 0) > 1) box.current?.select();
  }, []);
  const finish = (dRow: number, dColumn: number): void => {
    if (done.current) return;
    done.current = true;
    onTyped(text, dRow, dColumn);
    // A text that was refused stays to be mended.
    queueMicrotask(() => {
      done.current = false;
    });
  };
  return (
    <>
      <Input
        ref={box}
        aria-label={label}
        className="h-6 min-w-20 py-0"
        list={choices ? id : undefined}
        value={text}
        onChange={(e) => setText(e.target.value)}
        onBlur={() => finish(0, 0)}
        onKeyDown={(e) => {
          e.stopPropagation();
          if (e.key === "Enter") {
            e.preventDefault();
            finish(1, 0);
          } else if (e.key === "Tab") {
            e.preventDefault();
            finish(0, e.shiftKey ? -1 : 1);
          } else if (e.key === "Escape") {
            done.current = true;
            onLeft();
          }
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
