"use client";
import { useWorkspace } from "@/components/draft/site-draft";
import { Table } from "@/components/kit/table";
import { COLUMNS } from "./columns";

/** All stations as a table for paper: the grid's columns, without those in which nothing stands. */
export function StationsOnPaper() {
  const { draft, units } = useWorkspace("draft", "units");
  const rows = draft.stations.map((s) => COLUMNS.map((c) => c.text(s, draft, units)));
  const shown = COLUMNS.map((column, k) => ({ column, k })).filter(({ k }) => rows.some((r) => r[k] !== ""));
  return (
    <Table aria-label="Stations" className="text-xs">
      <thead>
        <tr>
          {shown.map(({ column }) => (
            <th key={column.key} className={column.numeric ? "text-right" : undefined}>
              {column.title(units)}
            </th>
          ))}
        </tr>
      </thead>
      <tbody>
        {draft.stations.map((s, i) => (
          <tr key={s.id}>
            {shown.map(({ column, k }) => {
              const text = rows[i]?.[k] ?? "";
              return (
                <td key={column.key} className={column.numeric ? "text-right" : undefined}>
                  {column.shown ? column.shown(text, units) : text}
                </td>
              );
            })}
          </tr>
        ))}
      </tbody>
    </Table>
  );
}
