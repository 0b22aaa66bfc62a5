"use client";
import { Mark } from "@/components/kit/notice";
import { Table } from "@/components/kit/table";
import { Button } from "@/components/kit/button";
import type { Paste } from "./paste";

const SHOWN = 40;

const counted = (n: number, what: string): string => `${n} ${what}${n === 1 ? "" : "s"}`;

/** What a paste would change and what of it is refused, before anything is. */
export function PastePreview({ paste, onTake, onCancel }: { paste: Paste; onTake: () => void; onCancel: () => void }) {
  const something = paste.added > 0 || paste.cells.length > 0;
  return (
    <section aria-label="Before pasting" className="border-y-2 border-base-content py-2 mb-3">
      <p className="text-lg">
        {paste.added > 0 ? `${counted(paste.added, "station")} would be added, ` : ""}
        {counted(paste.cells.length, "cell")} of {counted(paste.changed, "station")} would change
        {paste.refused.length > 0 ? (
          <span className="text-error">, {counted(paste.refused.length, "cell")} refused</span>
        ) : (
          ""
        )}
        .
      </p>
      {paste.matched.length > 0 && (
        <p className="text-sm">
          Columns: {paste.matched.map((m) => `${m.heading} → ${m.column}`).join(" · ")}
          {paste.ignored.length > 0 ? (
            <span className="text-warning"> · no column for {paste.ignored.join(", ")}</span>
          ) : (
            ""
          )}
        </p>
      )}
      <div className="grid lg:grid-cols-2 gap-6 max-h-64 overflow-y-auto my-1" tabIndex={-1}>
        {paste.cells.length > 0 && (
          <Table>
            <thead>
              <tr>
                <th>Station</th>
                <th>Column</th>
                <th>Now</th>
                <th>Pasted</th>
              </tr>
            </thead>
            <tbody>
              {paste.cells.slice(0, SHOWN).map((c, i) => (
                // biome-ignore lint/suspicious/noArrayIndexKey: each is its place in the list
                <tr key={`${c.station}-${c.column}-${i}`}>
                  <td>{c.station}</td>
                  <td>{c.column}</td>
                  <td className="text-faint">{c.from || "empty"}</td>
                  <td className="font-semibold">{c.to || "empty"}</td>
                </tr>
              ))}
            </tbody>
          </Table>
        )}
        {paste.refused.length > 0 && (
          <ul className="text-error">
            {paste.refused.slice(0, SHOWN).map((r) => (
              <li key={r}>
                <Mark tone="alarm" /> {r}
              </li>
            ))}
            {paste.refused.length > SHOWN && <li>and {paste.refused.length - SHOWN} more</li>}
          </ul>
        )}
      </div>
      {paste.cells.length > SHOWN && <p className="text-sm text-faint">and {paste.cells.length - SHOWN} more cells</p>}
      <div className="flex gap-2">
        <Button rank="main" disabled={!something} onClick={onTake}>
          {paste.refused.length > 0 ? "Take what is right" : "Take it"}
        </Button>
        <Button onClick={onCancel}>Leave everything as it is</Button>
      </div>
    </section>
  );
}
