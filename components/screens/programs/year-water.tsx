"use client";
import { Scroller } from "@/components/kit/scroller";
import { Table } from "@/components/kit/table";
import { useMemo } from "react";
import { useWorkspace } from "@/components/draft/site-draft";
import { monthBudgetM3, monthWaterM3 } from "@/core/season/month-water";
import { monthCost } from "@/core/season/water-cost";
import type { Program } from "@/core/site-file/schema";
import { showNumber, toShown, unitLabel } from "@/core/units/units";

const MONTHS = ["Jan", "Feb", "Mar", "Apr", "May", "Jun", "Jul", "Aug", "Sep", "Oct", "Nov", "Dec"];

/** Water of each month: this program's, all programs', and what the budgets give. */
export function YearWater({ program }: { program: Program }) {
  const { draft, date, units } = useWorkspace("draft", "date", "units");
  const shown = (m3: number): string => {
    const figure = toShown(m3, "bulk", units);
    return showNumber(figure, figure < 100 ? 1 : 0);
  };
  const priced = draft.sources.some((s) => s.price);
  const rows = useMemo(
    () =>
      MONTHS.map((_, m) => ({
        mine: monthWaterM3(draft, m, [program]),
        all: monthWaterM3(draft, m),
        budget: monthBudgetM3(draft, m),
        cost: priced ? monthCost(draft, m) : null,
      })),
    [draft, program, priced],
  );
  const now = Number(date.slice(5, 7)) - 1;
  const most = Math.max(1e-9, ...rows.map((r) => Math.max(r.all, r.budget ?? 0)));
  const total = (of: (r: (typeof rows)[number]) => number): number => rows.reduce((sum, r) => sum + of(r), 0);
  return (
    <details className="mb-2">
      <summary className="cursor-pointer font-semibold">
        By month: {shown(rows[now]?.mine ?? 0)} {unitLabel("bulk", units)} in {MONTHS[now]}
        {rows[now]?.budget !== null && rows[now]
          ? `; all programs ${shown(rows[now].all)} of a budget of ${shown(rows[now].budget as number)}`
          : ""}
        {rows.some((r) => r.budget !== null && r.all > r.budget)
          ? ", over budget in " +
            MONTHS.filter((_, m) => {
              const r = rows[m];
              return r?.budget != null && r.all > r.budget;
            }).join(", ")
          : ""}
      </summary>
      <Scroller>
        <Table className="mt-1" aria-label="Water by month">
          <thead>
            <tr>
              <th>{unitLabel("bulk", units)}</th>
              {MONTHS.map((m, i) => (
                <th key={m} className={`text-right ${i === now ? "underline underline-offset-4" : ""}`}>
                  {m}
                </th>
              ))}
              <th className="text-right">Year</th>
            </tr>
          </thead>
          <tbody>
            <tr>
              <td>{program.name}</td>
              {rows.map((r, m) => (
                <td key={MONTHS[m]} className="text-right">
                  {shown(r.mine)}
                </td>
              ))}
              <td className="text-right font-semibold">{shown(total((r) => r.mine))}</td>
            </tr>
            <tr>
              <td>All programs</td>
              {rows.map((r, m) => {
                const over = r.budget !== null && r.all > r.budget;
                return (
                  <td key={MONTHS[m]} className={`text-right ${over ? "text-error font-semibold" : ""}`}>
                    {shown(r.all)}
                  </td>
                );
              })}
              <td className="text-right font-semibold">{shown(total((r) => r.all))}</td>
            </tr>
            {draft.sources
              .filter((s) => s.enabled !== false)
              .map((s) => (
                <tr key={s.id}>
                  <td>Budget of {s.name}</td>
                  {MONTHS.map((month, m) => (
                    <td key={month} className="text-right">
                      {s.monthlyBudgetM3 ? shown(s.monthlyBudgetM3[m] as number) : "–"}
                    </td>
                  ))}
                  <td className="text-right">
                    {s.monthlyBudgetM3 ? shown(s.monthlyBudgetM3.reduce((a, b) => a + b, 0)) : "none"}
                  </td>
                </tr>
              ))}
            {priced && (
              <tr>
                <td>Costs, {draft.site.currency ?? "as priced"}</td>
                {rows.map((r, m) => (
                  <td key={MONTHS[m]} className="text-right">
                    {r.cost === null ? "–" : showNumber(r.cost, 0)}
                  </td>
                ))}
                <td className="text-right font-semibold">
                  {rows.some((r) => r.cost === null)
                    ? "–"
                    : showNumber(
                        total((r) => r.cost ?? 0),
                        0,
                      )}
                </td>
              </tr>
            )}
            <tr>
              <td />
              {rows.map((r, m) => (
                <td key={MONTHS[m]} className="align-bottom">
                  <svg aria-hidden="true" viewBox="0 0 20 26" className="block w-full h-7" preserveAspectRatio="none">
                    <rect
                      x="4"
                      y={26 - (26 * r.all) / most}
                      width="12"
                      height={(26 * r.all) / most}
                      fill="var(--bed)"
                    />
                    <rect
                      x="4"
                      y={26 - (26 * r.mine) / most}
                      width="12"
                      height={(26 * r.mine) / most}
                      fill="var(--water)"
                    />
                    {r.budget !== null && (
                      <line
                        x1="0"
                        x2="20"
                        y1={26 - (26 * r.budget) / most + 0.5}
                        y2={26 - (26 * r.budget) / most + 0.5}
                        stroke="currentColor"
                        strokeWidth="1.2"
                      />
                    )}
                  </svg>
                </td>
              ))}
              <td />
            </tr>
          </tbody>
        </Table>
      </Scroller>
      <p className="text-sm text-faint">
        As the programs stand, on the days of a plain year; starts by inputs and the weather's daily percent are not in
        it.{" "}
        {priced &&
          "Costs are by the source that each mainline draws on first; a dash: some of that water has no price. "}
        The date on which a budget would run out: Night, Six weeks.
      </p>
    </details>
  );
}
