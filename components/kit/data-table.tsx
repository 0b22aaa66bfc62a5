"use client";
import {
  type ColumnDef,
  flexRender,
  functionalUpdate,
  getCoreRowModel,
  getSortedRowModel,
  type RowData,
  type SortingState,
  useReactTable,
} from "@tanstack/react-table";
import { useVirtualizer } from "@tanstack/react-virtual";
import { ArrowDown, ArrowUp } from "lucide-react";
import { useRef, useState } from "react";
import { classes } from "./classes";

declare module "@tanstack/react-table" {
  interface ColumnMeta<TData extends RowData, TValue> {
    /** Figures stand right. */
    numeric?: boolean;
    className?: string;
    /** Kept for narrow screens. */
    narrow?: boolean;
    of?: (row: TData) => TValue;
  }
}

export type Column<T> = ColumnDef<T, unknown>;

const SORTED = { asc: "ascending", desc: "descending" } as const;
/** Above so many rows only those in sight are drawn. */
const VIRTUAL_FROM = 80;
const ROW_PX = 52;

/**
 * A table that sorts, selects one row and may be long: TanStack's, in daisyUI's dress. Rows take the keys j, k and arrows while one of them has the focus; Enter
 * opens.
 */
export function DataTable<T>({
  label,
  rows,
  columns,
  idOf,
  selected,
  onSelect,
  onOpen,
  sorting: firstSorting = [],
  onSort,
  empty,
  className,
}: {
  label: string;
  rows: readonly T[];
  columns: Column<T>[];
  idOf: (row: T) => string;
  selected?: string | null;
  onSelect?: (id: string) => void;
  onOpen?: (row: T) => void;
  sorting?: SortingState;
  /** Somebody else sorts: the rows come as they stand, and `sorting` says how. */
  onSort?: (sorting: SortingState) => void;
  empty?: React.ReactNode;
  className?: string;
}) {
  const [ownSorting, setSorting] = useState<SortingState>(firstSorting);
  const sorting = onSort ? firstSorting : ownSorting;
  const box = useRef<HTMLDivElement>(null);
  const table = useReactTable<T>({
    data: rows as T[],
    columns,
    state: { sorting },
    onSortingChange: (next) => (onSort ? onSort(functionalUpdate(next, sorting)) : setSorting(next)),
    manualSorting: onSort !== undefined,
    enableSortingRemoval: onSort === undefined,
    getRowId: idOf,
    sortDescFirst: false,
    getCoreRowModel: getCoreRowModel(),
    getSortedRowModel: getSortedRowModel(),
  });
  const all = table.getRowModel().rows;
  const long = all.length > VIRTUAL_FROM;
  const virtual = useVirtualizer({
    count: all.length,
    getScrollElement: () => box.current,
    estimateSize: () => ROW_PX,
    overscan: 12,
    enabled: long,
  });
  const items = long ? virtual.getVirtualItems() : null;
  const shown = items ? items.flatMap((i) => all[i.index] ?? []) : all;
  const before = items?.[0]?.start ?? 0;
  const after = items ? virtual.getTotalSize() - (items.at(-1)?.end ?? 0) : 0;
  const step = (by: number, from: HTMLElement): void => {
    const place = all.findIndex((r) => r.id === from.dataset["row"]);
    const next = all[Math.max(0, Math.min(all.length - 1, place + by))];
    if (!next) return;
    onSelect?.(next.id);
    if (long) virtual.scrollToIndex(all.indexOf(next));
    requestAnimationFrame(() =>
      box.current?.querySelector<HTMLElement>(`[data-row="${CSS.escape(next.id)}"]`)?.focus(),
    );
  };
  /** One row takes the focus: the selected one, else the first. */
  const roving = (id: string, place: number): 0 | -1 => (id === selected || (place === 0 && !selected) ? 0 : -1);
  const onKey = (e: React.KeyboardEvent<HTMLElement>, row: T): void => {
    if (e.target !== e.currentTarget) return;
    const by = { j: 1, ArrowDown: 1, k: -1, ArrowUp: -1 }[e.key];
    if (by !== undefined) {
      e.preventDefault();
      e.stopPropagation();
      step(by, e.currentTarget);
    }
    if (e.key === "Enter") onOpen?.(row);
  };
  return (
    <div ref={box} className={classes("overflow-auto", long && "max-h-[75vh]", className)}>
      <table className="table table-sm" aria-label={label} aria-rowcount={all.length + 1}>
        <thead>
          {table.getHeaderGroups().map((group) => (
            <tr key={group.id}>
              {group.headers.map((h) => {
                const order = h.column.getIsSorted();
                const sortable = h.column.getCanSort();
                return (
                  <th
                    key={h.id}
                    className={classes(
                      h.column.columnDef.meta?.numeric && "text-right",
                      h.column.columnDef.meta?.className,
                    )}
                    aria-sort={order ? SORTED[order] : undefined}
                  >
                    {sortable ? (
                      <button
                        type="button"
                        className="inline-flex cursor-pointer items-center gap-1 font-semibold"
                        onClick={h.column.getToggleSortingHandler()}
                      >
                        {flexRender(h.column.columnDef.header, h.getContext())}
                        {order === "asc" && <ArrowUp className="size-3.5" aria-hidden />}
                        {order === "desc" && <ArrowDown className="size-3.5" aria-hidden />}
                      </button>
                    ) : (
                      flexRender(h.column.columnDef.header, h.getContext())
                    )}
                  </th>
                );
              })}
            </tr>
          ))}
        </thead>
        <tbody>
          {before > 0 && <tr aria-hidden style={{ height: before }} />}
          {shown.map((row, i) => (
            <tr
              key={row.id}
              data-row={row.id}
              aria-rowindex={all.indexOf(row) + 2}
              aria-selected={onSelect ? row.id === selected : undefined}
              tabIndex={onSelect || onOpen ? roving(row.id, i) : undefined}
              className={classes("outline-offset-[-2px]", (onSelect || onOpen) && "hover:bg-base-200")}
              onClick={() => onSelect?.(row.id)}
              onDoubleClick={() => onOpen?.(row.original)}
              onKeyDown={(e) => onKey(e, row.original)}
            >
              {row.getVisibleCells().map((cell) => (
                <td
                  key={cell.id}
                  className={classes(
                    cell.column.columnDef.meta?.numeric && "text-right whitespace-nowrap",
                    cell.column.columnDef.meta?.className,
                  )}
                >
                  {flexRender(cell.column.columnDef.cell, cell.getContext())}
                </td>
              ))}
            </tr>
          ))}
          {after > 0 && <tr aria-hidden style={{ height: after }} />}
        </tbody>
      </table>
      {all.length === 0 && empty}
    </div>
  );
}
