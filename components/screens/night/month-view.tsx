"use client";
import { useConventions } from "@/components/kit/conventions";
import { Mark, Problem } from "@/components/kit/notice";
import { X } from "lucide-react";
import { Table } from "@/components/kit/table";
import { Button } from "@/components/kit/button";
import { useEffect, useMemo } from "react";
import { useWater } from "@/components/data/use-water";
import type { WaterUsed } from "@/contracts/water";
import { computeOutlook } from "@/components/draft/compute";
import { useWorkspace } from "@/components/draft/site-draft";
import { useJob } from "@/components/draft/use-job";
import { addDays, WEEKDAYS, weekdayOf } from "@/core/dates/wall-time";
import type { DayOutlook, Outlook, ReadWater } from "@/core/season/outlook";
import { showNumber, showQuantity, toShown, unitLabel } from "@/core/units/units";

const WARNING_WORDS: Record<string, string> = {
  timeSkipped: "clock change",
  startsQueue: "starts queue",
  startCut: "a start is cut",
  pumpMinimum: "pump minimum",
  held: "held",
  dayEnd: "cut after 24 h",
  aboveCeiling: "above a ceiling",
  noFlow: "no figure",
  lockedOut: "locked out",
  noSupply: "no supply",
  controllerOff: "controller off",
};

/** What each source really gave this month before today; null where nothing was read. */
function readBefore(rows: WaterUsed["rows"], today: string): ReadWater | null {
  const before = rows.filter((r) => r.at < today && r.key !== "");
  const m3: Record<string, number> = {};
  for (const { key, litres } of before) m3[key] = (m3[key] ?? 0) + litres / 1000;
  return before.length > 0 ? { month: today.slice(0, 7), before: today, m3 } : null;
}

/** Six weeks of nights: which are full, where a rule, a clock change or a budget bites. */
export function MonthView({ onPick }: { onPick: (date: string) => void }) {
  const { siteId, draft, date, units } = useWorkspace("siteId", "draft", "date", "units");
  const { date: write, short, month, clock } = useConventions();
  const first = addDays(date, -WEEKDAYS.indexOf(weekdayOf(date)));
  const { value, share, problem, start, cancel } = useJob<{ of: typeof draft; first: string; outlook: Outlook }>();
  const { used } = useWater(siteId, { by: "source", month: date.slice(0, 7) });
  const read = useMemo(() => readBefore(used?.rows ?? [], date), [used, date]);
  useEffect(() => {
    void start((onProgress) => {
      const job = computeOutlook(draft, { first, days: 42, read }, onProgress);
      return { promise: job.promise.then((outlook) => ({ of: draft, first, outlook })), cancel: job.cancel };
    });
    return cancel;
  }, [draft, first, read, start, cancel]);
  const found = value?.of === draft && value.first === first ? value.outlook : null;
  if (problem !== null) return <Problem>The weeks could not be worked out: {problem}</Problem>;
  if (!found) return <p role="status">Working out six weeks of nights: {Math.round((share ?? 0) * 42)} of 42…</p>;
  const most = Math.max(1, ...found.days.map((d) => d.litres));
  const longest = Math.max(1, ...found.days.map((d) => d.makespanS));
  const empty = new Set(found.budgets.flatMap((b) => (b.runsOutOn ? [b.runsOutOn] : [])));
  const week = (i: number): DayOutlook[] => found.days.slice(7 * i, 7 * i + 7);
  return (
    <section aria-label="Six weeks">
      <Table className="w-full border-collapse table-fixed">
        <thead>
          <tr>
            {WEEKDAYS.map((d) => (
              <th key={d} className="text-left text-faint font-normal px-1">
                {d}
              </th>
            ))}
            <th className="w-13 px-0 text-right sm:w-28 sm:px-2">week</th>
          </tr>
        </thead>
        <tbody>
          {Array.from({ length: 6 }, (_, i) => (
            // biome-ignore lint/suspicious/noArrayIndexKey: each is its place in the list
            <tr key={i}>
              {week(i).map((d) => {
                const bites = [
                  ...d.warnings.map((w) => WARNING_WORDS[w] ?? w),
                  ...(empty.has(d.date) ? ["budget used up"] : []),
                ];
                return (
                  <td
                    key={d.date}
                    className={`border border-base-300 align-top p-0 ${d.date === date ? "outline-2 outline-[var(--water)] -outline-offset-1" : ""}`}
                  >
                    <Button
                      rank="bare"
                      onClick={() => onPick(d.date)}
                      className="flex flex-col justify-start items-stretch w-full text-left px-1 py-0.5 min-h-[4.6rem] cursor-pointer hover:bg-base-200"
                      aria-label={`${d.date}: ${d.finish ? `ends ${clock(d.finish, d.date)}, ${showQuantity(d.litres, "volume", units)}` : "no watering"}${d.shortfallMin > 0 ? `, ${Math.round(d.shortfallMin)} min unwatered` : ""}${bites.length > 0 ? `, ${bites.join(", ")}` : ""}`}
                    >
                      <span className="flex flex-col justify-between sm:flex-row">
                        <strong>
                          {d.date.slice(8) === "01" || d.date === first ? short(d.date) : Number(d.date.slice(8))}
                        </strong>
                        {d.finish && (
                          <span className="text-xs sm:text-base">
                            {clock(d.finish)}
                            {clock(d.finish, d.date) !== clock(d.finish) && (
                              <span className="text-xs text-faint"> next day</span>
                            )}
                          </span>
                        )}
                      </span>
                      <svg
                        viewBox="0 0 100 14"
                        preserveAspectRatio="none"
                        className="block w-full h-[14px] my-0.5"
                        aria-hidden="true"
                      >
                        <rect x="0" y="2" width="100" height="10" fill="var(--bed)" />
                        {d.litres > 0 && (
                          <rect
                            x="0"
                            y="2"
                            width={(100 * d.makespanS) / longest}
                            height="10"
                            fill="var(--water)"
                            opacity={0.35 + (0.65 * d.litres) / most}
                          />
                        )}
                      </svg>
                      {d.shortfallMin > 0 && (
                        <span className="block text-sm text-error font-semibold">
                          <X className="inline size-[1em] align-[-0.12em]" aria-hidden /> {Math.round(d.shortfallMin)}{" "}
                          min short
                        </span>
                      )}
                      {bites.slice(0, 2).map((b) => (
                        <span key={b} className="block text-sm text-warning">
                          <Mark tone="caution" /> {b}
                        </span>
                      ))}
                    </Button>
                  </td>
                );
              })}
              <td className="px-0 text-right align-top text-xs sm:px-1 sm:text-sm">
                {showQuantity(week(i).reduce((sum, d) => sum + d.litres, 0) / 1000, "bulk", units)}
              </td>
            </tr>
          ))}
        </tbody>
      </Table>
      <p className="text-sm text-faint mt-1">
        Bar: how long the night is; the darker, the more water. Choose a night to see its braid.
      </p>
      {found.budgets.length > 0 && (
        <Table className="max-w-3xl mt-2" aria-label="Budgets">
          <thead>
            <tr>
              <th>Source</th>
              <th>Month</th>
              <th className="text-right">
                {read ? `Read before ${short(date)}, then planned` : "Used in these weeks"}, {unitLabel("bulk", units)}
              </th>
              <th className="text-right">Budget, {unitLabel("bulk", units)}</th>
              <th>Lasts</th>
            </tr>
          </thead>
          <tbody>
            {found.budgets.map((b) => (
              <tr key={`${b.sourceId}${b.month}`}>
                <td>{draft.sources.find((s) => s.id === b.sourceId)?.name}</td>
                <td>{month(b.month)}</td>
                <td className="text-right">{showNumber(toShown(b.usedM3, "bulk", units), 1)}</td>
                <td className="text-right">{showNumber(toShown(b.budgetM3, "bulk", units), 1)}</td>
                <td className={b.runsOutOn ? "text-error font-semibold" : ""}>
                  {b.runsOutOn ? `used up on ${write(b.runsOutOn)}` : "to the end"}
                </td>
              </tr>
            ))}
          </tbody>
        </Table>
      )}
    </section>
  );
}
