"use client";
import { Scroller } from "@/components/kit/scroller";
import { Circle } from "lucide-react";
import { useConventions } from "@/components/kit/conventions";
import { Mark } from "@/components/kit/notice";
import { Table } from "@/components/kit/table";
import { Input } from "@/components/kit/inputs";
import { Button } from "@/components/kit/button";
import { useState } from "react";
import { useWorkspace } from "@/components/draft/site-draft";
import { replaceDevice } from "@/components/draft/waterworks-edits";
import type { FlowSensor } from "@/core/site-file/schema";
import { latestCheck, withCheck } from "@/core/site-file/device-checks";
import { checksDone, SENSOR_CHECKS } from "./checklist";

/** The wiring checklist of one sensor: what to look at, why, and who found it how and when. */
export function CheckList({ sensor }: { sensor: FlowSensor }) {
  const { edit, canEdit, userName } = useWorkspace("edit", "canEdit", "userName");
  const { dateAt } = useConventions();
  const [note, setNote] = useState<Record<string, string>>({});
  const { done, wrong, of } = checksDone(sensor);
  const mark = (check: string, ok: boolean): void => {
    edit(
      replaceDevice(sensor.id, (d) =>
        withCheck(d, { check, ok, by: userName, at: new Date().toISOString(), note: note[check] ?? "" }),
      ),
    );
    setNote({ ...note, [check]: "" });
  };
  return (
    <section aria-label="Wiring checks" className="mt-5">
      <h4 className="font-semibold">
        Wiring and placement: {done} of {of} looked at
        {wrong > 0 ? (
          <span className="text-error">
            , <Mark tone="alarm" /> {wrong} not in order
          </span>
        ) : (
          done === of && ", all in order"
        )}
      </h4>
      <Scroller>
        <Table className="max-w-4xl">
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
                    <span className="block text-sm text-faint">{why}</span>
                  </td>
                  <td className="whitespace-nowrap">
                    {last === null ? (
                      <span className="text-faint">
                        <Circle className="inline size-[1em] align-[-0.12em]" aria-hidden /> not yet
                      </span>
                    ) : (
                      <>
                        <span className={last.ok ? "font-semibold" : "text-error font-semibold"}>
                          {last.ok ? "in order" : "not in order"}
                        </span>
                        <span className="block text-sm text-faint">
                          {last.by}, {dateAt(last.at)}
                        </span>
                      </>
                    )}
                  </td>
                  <td className="text-sm">
                    {last?.note}
                    {canEdit && (
                      <Input
                        className="mt-0.5"
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
                        <Button aria-label={`In order: ${what}`} onClick={() => mark(check, true)}>
                          In order
                        </Button>{" "}
                        <Button aria-label={`Not in order: ${what}`} onClick={() => mark(check, false)}>
                          Not
                        </Button>
                      </>
                    )}
                  </td>
                </tr>
              );
            })}
          </tbody>
        </Table>
      </Scroller>
    </section>
  );
}
