"use client";
import { Table } from "@/components/kit/table";
import { Button } from "@/components/kit/button";
import { startsOn, startsWords } from "@/core/site-file/starts";
import { useNightDate } from "@/components/frame/use-night-date";
import { useWorkspace } from "@/components/draft/site-draft";
import { isDue } from "@/core/calendar/due";
import { addDays, WEEKDAYS, weekdayOf } from "@/core/dates/wall-time";
import { siteHold } from "@/core/dispatch/queue";

/** All programs on one calendar: which of them water on which of the next six weeks' dates, and from when. */
export function AllPrograms({ onPick }: { onPick: (programId: string) => void }) {
  const { draft } = useWorkspace("draft");
  const [date, setDate] = useNightDate();
  const first = addDays(date, -WEEKDAYS.indexOf(weekdayOf(date)));
  const days = Array.from({ length: 42 }, (_, i) => addDays(first, i));
  const off = new Set(draft.controllers.filter((c) => c.off).map((c) => c.id));
  const due = (p: (typeof draft.programs)[number], d: string): boolean =>
    p.enabled !== false &&
    !off.has(p.controllerId) &&
    siteHold(draft, d) === null &&
    isDue(p, d) &&
    p.runs.some((r) => r.minutes > 0) &&
    (startsOn(p).length > 0 || (p.onInputs ?? []).some((r) => r.does === "start"));
  return (
    <section aria-label="All programs" className="overflow-x-auto mb-4">
      <Table className="border-collapse">
        <thead>
          <tr>
            <th className="text-left pr-3">Program</th>
            <th className="text-left pr-3">Starts</th>
            {days.map((d) => (
              <th
                key={d}
                scope="col"
                className={`p-0 font-normal text-xs border-l ${weekdayOf(d) === "mon" ? "border-l-base-content/60" : "border-base-300"}`}
              >
                <Button
                  rank="bare"
                  className={`w-6 cursor-pointer leading-5 ${d === date ? "bg-base-content text-base-100" : "hover:bg-base-200"}`}
                  aria-label={`Night of ${d}`}
                  aria-pressed={d === date}
                  onClick={() => setDate(d)}
                >
                  {d.slice(8) === "01" || d === first ? (
                    <span className="block text-faint">{d.slice(5, 7)}</span>
                  ) : (
                    <span className="block">&nbsp;</span>
                  )}
                  {Number(d.slice(8))}
                </Button>
              </th>
            ))}
          </tr>
        </thead>
        <tbody>
          {draft.programs.map((p) => (
            <tr key={p.id} className="border-t border-base-300">
              <th scope="row" className="text-left font-normal pr-3 whitespace-nowrap">
                <Button
                  rank="bare"
                  className="underline underline-offset-2 cursor-pointer"
                  onClick={() => onPick(p.id)}
                >
                  {p.name}
                </Button>
              </th>
              <td className="pr-3 whitespace-nowrap text-sm">
                {[startsWords(p), ...((p.onInputs ?? []).some((r) => r.does === "start") ? ["by input"] : [])].join(
                  ", ",
                ) || "none"}
              </td>
              {days.map((d) => (
                <td
                  key={d}
                  className={`p-0 h-6 border-l ${weekdayOf(d) === "mon" ? "border-l-base-content/60" : "border-base-300"} ${["sat", "sun"].includes(weekdayOf(d)) ? "bg-base-200" : ""}`}
                  aria-label={due(p, d) ? `waters on ${d}` : undefined}
                >
                  {due(p, d) && <span className="block mx-0.5 h-3 bg-primary" />}
                </td>
              ))}
            </tr>
          ))}
          <tr className="border-t border-base-300">
            <th scope="row" className="text-left font-normal text-faint" colSpan={2}>
              Starts that night
            </th>
            {days.map((d) => {
              const n = draft.programs
                .filter((p) => due(p, d))
                .reduce((sum, p) => sum + Math.max(1, startsOn(p).length), 0);
              return (
                <td
                  key={d}
                  className={`text-center text-xs border-l ${weekdayOf(d) === "mon" ? "border-l-base-content/60" : "border-base-300"} ${n === 0 ? "text-faint" : ""}`}
                >
                  {n === 0 ? "·" : n}
                </td>
              );
            })}
          </tr>
        </tbody>
      </Table>
      <p className="text-sm text-faint mt-1">
        Choose a date to make it the night shown everywhere; choose a program to edit it.
      </p>
    </section>
  );
}
