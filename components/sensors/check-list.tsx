"use client";
import { useState } from "react";
import { useWorkspace } from "@/components/workspace/workspace";
import { replaceDevice } from "@/components/waterworks/edits";
import type { FlowSensor } from "@/core/site-file/schema";
import { checksDone, latestCheck, SENSOR_CHECKS, withCheck } from "./checklist";

/** The wiring checklist of one sensor: what to look at, why, and who found it how and when. */
export function CheckList({ sensor }: { sensor: FlowSensor }) {
  const { edit, canEdit, userName } = useWorkspace();
  const [note, setNote] = useState<Record<string, string>>({});
  const { done, wrong, of } = checksDone(sensor);
  const mark = (check: string, ok: boolean): void => {
    edit(
      replaceDevice(sensor.id, (d) => withCheck(d, check, ok, note[check] ?? "", userName, new Date().toISOString())),
    );
    setNote({ ...note, [check]: "" });
  };
  return (
    <section aria-label="Wiring checks" className="mt-5">
      <h4 className="font-semibold">
        Wiring and placement: {done} of {of} looked at
        {wrong > 0 ? <span className="text-error">, ■ {wrong} not in order</span> : done === of ? ", all in order" : ""}
      </h4>
      <div className="overflow-x-auto">
        <table className="sheet max-w-4xl">
          <thead>
            <tr>
              <th>Look at</th>
              <th>Found</th>
              <th>Note</th>
              <th>
                <span className="sr-only">Mark</span>
              </th>
            </tr>
          </thead>
          <tbody>
            {SENSOR_CHECKS.map(({ check, what, why }) => {
              const last = latestCheck(sensor, check);
              return (
                <tr key={check} data-check={check}>
                  <td className="min-w-56">
                    {what}
                    <span className="block text-sm faint">{why}</span>
                  </td>
                  <td className="whitespace-nowrap">
                    {last === null ? (
                      <span className="faint">○ not yet</span>
                    ) : (
                      <>
                        <span className={last.ok ? "font-semibold" : "text-error font-semibold"}>
                          {last.ok ? "✓ in order" : "■ not in order"}
                        </span>
                        <span className="block text-sm faint">
                          {last.by}, {last.at.slice(0, 10)}
                        </span>
                      </>
                    )}
                  </td>
                  <td className="text-sm">
                    {last?.note}
                    {canEdit && (
                      <input
                        className="entry mt-0.5"
                        aria-label={`Note on: ${what}`}
                        placeholder="note"
                        value={note[check] ?? ""}
                        maxLength={400}
                        onChange={(e) => setNote({ ...note, [check]: e.target.value })}
                      />
                    )}
                  </td>
                  <td className="whitespace-nowrap">
                    {canEdit && (
                      <>
                        <button
                          type="button"
                          className="act"
                          aria-label={`In order: ${what}`}
                          onClick={() => mark(check, true)}
                        >
                          In order
                        </button>{" "}
                        <button
                          type="button"
                          className="act"
                          aria-label={`Not in order: ${what}`}
                          onClick={() => mark(check, false)}
                        >
                          Not
                        </button>
                      </>
                    )}
                  </td>
                </tr>
              );
            })}
          </tbody>
        </table>
      </div>
    </section>
  );
}
