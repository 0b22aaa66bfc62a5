"use client";
import dynamic from "next/dynamic";
import { useMemo } from "react";
import type { WaterLine, WaterPart } from "@/components/charts/water-chart";
import { useWater } from "@/components/data/use-water";
import { useWorkspace } from "@/components/draft/site-draft";
import { oneOf, useScreenParam } from "@/components/frame/use-screen-param";
import { Button } from "@/components/kit/button";
import { useConventions } from "@/components/kit/conventions";
import { ChoiceField } from "@/components/kit/fields";
import { Problem } from "@/components/kit/notice";
import { fileStem } from "@/components/kit/save-file";
import { TakenAway } from "@/components/kit/taken-away";
import { Scroller } from "@/components/kit/scroller";
import { Table } from "@/components/kit/table";
import type { By } from "@/contracts/water";
import { CAUSE_WORDS, CAUSES, type Cause } from "@/core/record/causes";
import { waterCosts } from "@/core/record/water-costs";
import { waterTable, type WaterPeriod } from "@/core/record/water-table";
import { waterCsv } from "@/core/record/water-csv";
import { showNumber } from "@/core/units/units";

const WaterChart = dynamic(() => import("@/components/charts/water-chart").then((m) => m.WaterChart), { ssr: false });

const BYS: { id: By; label: string }[] = [
  { id: "cause", label: "What it was for" },
  { id: "source", label: "Source" },
  { id: "poc", label: "Point of connection" },
  { id: "mainline", label: "Mainline" },
  { id: "program", label: "Program" },
  { id: "station", label: "Station" },
];
const isBy = oneOf(BYS);
/** So many have a column and a part of the bars; what is left is one. */
const MOST_PARTS = 5;
/** A year and the month that is. */
const MONTHS_SHOWN = 13;
const NOBODYS: ReadonlySet<string> = new Set<Cause>(["offSchedule", "broken"]);

/** What a key of water stands for, by the site as it is. */
function useKeyWords(by: By): (key: string) => string {
  const { draft } = useWorkspace("draft");
  return useMemo(() => {
    const { sources, pocs, mainlines, programs, stations } = draft;
    const named = new Map([...sources, ...pocs, ...mainlines, ...programs].map((e) => [e.id, e.name]));
    const numbered = new Map(stations.map((s) => [s.id, `${s.number} ${s.name}`]));
    if (by === "cause") return (key) => CAUSE_WORDS[key as Cause] ?? key;
    return (key) => {
      if (key === "") return by === "program" ? "no program" : "not known";
      return (by === "station" ? numbered : named).get(key) ?? "no longer there";
    };
  }, [draft, by]);
}

/** Water used: a bar a month or day, what it was for, and the table behind it, beside plan and budget. */
export function WaterView() {
  const { siteId, draft } = useWorkspace("siteId", "draft");
  const { unit, figure, month: monthWords, short, fromShown } = useConventions();
  const [by, setBy] = useScreenParam<By>("by", "cause", { fits: isBy });
  const [month, setMonth] = useScreenParam<string>("month", "", { fits: (m): m is string => /^\d{4}-\d\d$/.test(m) });
  const { used, problem } = useWater(siteId, { by, month: month || null });
  const words = useKeyWords(by);
  const table = useMemo(() => (used ? waterTable(draft, used) : null), [draft, used]);
  const periods = useMemo(() => (table ? table.periods.slice(month === "" ? -MONTHS_SHOWN : 0) : []), [table, month]);
  const shown = useMemo(() => (table ? inParts(table.keys, periods, by) : null), [table, periods, by]);
  const costs = useMemo(() => waterCosts(draft, used?.sources ?? []), [draft, used]);
  const perShown = fromShown(1, "bulk");
  const labels = useMemo(
    () => periods.map((p) => (p.at.length === 7 ? monthWords(p.at) : short(p.at))),
    [periods, monthWords, short],
  );
  const parts = useMemo(
    (): WaterPart[] => [
      ...(shown?.keys ?? []).map(
        (key): WaterPart => ({
          name: key === null ? "others" : words(key),
          values: (shown?.of ?? []).map((of) => (of.get(key) ?? 0) / perShown),
          tone: key !== null && NOBODYS.has(key) ? "alarm" : "water",
        }),
      ),
      ...(periods.some((p) => p.estimatedM3 > 0)
        ? [
            {
              name: "not read, as planned",
              values: periods.map((p) => p.estimatedM3 / perShown),
              tone: "estimate" as const,
            },
          ]
        : []),
    ],
    [shown, periods, words, perShown],
  );
  const lines = useMemo((): WaterLine[] => {
    const line = (name: string, dash: number[], of: (p: WaterPeriod) => number | null): WaterLine[] => {
      const values = periods.map((p) => {
        const m3 = of(p);
        return m3 === null ? null : m3 / perShown;
      });
      return values.some((v) => v !== null) ? [{ name, dash, values }] : [];
    };
    return [
      ...line("budget", [], (p) => p.budgetM3),
      ...line("programs as they stand", [5, 4], (p) => p.planM3),
      ...line("a year before", [1, 3], (p) => p.yearBeforeM3),
    ];
  }, [periods, perShown]);
  if (problem) return <Problem>{problem}</Problem>;
  if (!table || !shown) return <p role="status">Reading the water…</p>;
  const priced = month === "" && costs.size > 0;
  const before = month === "" && periods.some((p) => p.yearBeforeM3 !== null);
  const money = (value: number | undefined): string => (value === undefined ? "–" : showNumber(value, 2, 2));
  const last = periods.at(-1)?.at ?? "";
  const most = Math.max(...periods.map((p) => p.readM3 + p.estimatedM3)) / perShown;
  const digits = Math.max(0, 3 - Math.ceil(Math.log10(Math.max(most, 0.001))));
  const m3 = (value: number | null | undefined): string => (value == null ? "–" : figure(value, "bulk", digits));
  return (
    <section aria-label="Water used" className="max-w-6xl">
      <div className="mb-2 flex flex-wrap items-end gap-3">
        <ChoiceField
          label="Told by"
          value={by}
          options={BYS.map(({ id, label }) => [id, label] as const)}
          onCommit={setBy}
        />
        {month !== "" && (
          <Button rank="quiet" onClick={() => setMonth("")}>
            All months
          </Button>
        )}
        {table.periods.length > 0 && (
          <TakenAway csv={() => waterCsv(table, words)} name={`${fileStem(draft)}-water-${month || "months"}`} />
        )}
        <h3 className="pb-2 font-semibold">
          {month === "" ? "By month, the last year" : `${monthWords(month)}, by day`}
        </h3>
      </div>
      {periods.length === 0 ? (
        <p className="text-faint">
          Nothing was read here yet. Water is counted from what a gateway reads, or from a recorder's log brought in
          under Limits, Nights.
        </p>
      ) : (
        <>
          <WaterChart
            label={`Water used, ${labels.length} ${month === "" ? "months" : "days"}; the table below says the same`}
            labels={labels}
            unit={unit("bulk")}
            parts={parts}
            lines={lines}
            onChoose={month === "" ? (i) => setMonth(periods[i]?.at ?? "") : undefined}
          />
          <Scroller>
            <Table aria-label="Water used">
              <thead>
                <tr>
                  <th>{unit("bulk")}</th>
                  {shown.keys.map((key) => (
                    <th key={key ?? "others"} className="text-right">
                      {key === null ? "others" : words(key)}
                    </th>
                  ))}
                  <th className="text-right">Read in all</th>
                  <th className="text-right">Not read, as planned</th>
                  <th className="text-right">Nothing known, h</th>
                  {month === "" && (
                    <>
                      <th className="text-right">Programs as they stand</th>
                      <th className="text-right">Budget</th>
                      {before && <th className="text-right">A year before</th>}
                      {priced && (
                        <>
                          <th className="text-right">Costs, {draft.site.currency ?? "as priced"}</th>
                          <th className="text-right">of which leaks and breaks</th>
                        </>
                      )}
                    </>
                  )}
                </tr>
              </thead>
              <tbody>
                {periods.map((p, i) => (
                  <tr key={p.at}>
                    <td className="whitespace-nowrap">
                      {month === "" ? (
                        <Button rank="quiet" onClick={() => setMonth(p.at)}>
                          {labels[i]}
                        </Button>
                      ) : (
                        labels[i]
                      )}
                    </td>
                    {shown.keys.map((key) => (
                      <td key={key ?? "others"} className="text-right tabular-nums">
                        {m3(shown.of[i]?.get(key))}
                      </td>
                    ))}
                    <td className="text-right font-semibold tabular-nums">
                      {m3(p.unreadH === null && p.readM3 === 0 ? null : p.readM3)}
                    </td>
                    <td className="text-right tabular-nums">{p.estimatedM3 > 0 ? m3(p.estimatedM3) : "–"}</td>
                    <td className="text-right tabular-nums">{unread(p.unreadH)}</td>
                    {month === "" && (
                      <>
                        <td className="text-right tabular-nums">{m3(p.planM3)}</td>
                        <td
                          className={`text-right tabular-nums ${p.budgetM3 !== null && p.readM3 > p.budgetM3 ? "font-semibold text-error" : ""}`}
                        >
                          {m3(p.budgetM3)}
                        </td>
                        {before && <td className="text-right tabular-nums">{m3(p.yearBeforeM3)}</td>}
                        {priced && (
                          <>
                            <td className="text-right tabular-nums">{money(costs.get(p.at)?.cost)}</td>
                            <td className="text-right tabular-nums">{money(costs.get(p.at)?.lost)}</td>
                          </>
                        )}
                      </>
                    )}
                  </tr>
                ))}
              </tbody>
            </Table>
          </Scroller>
          {priced && costs.has(last) && (
            <p className="mt-2">
              A percent less in {monthWords(last)} would have saved {money(costs.get(last)?.percentLess)}{" "}
              {draft.site.currency ?? ""}
            </p>
          )}
        </>
      )}
    </section>
  );
}

/** Hours of which nothing is known. */
function unread(hours: number | null): string {
  if (hours === null) return "all";
  return hours < 0.05 ? "–" : hours.toFixed(1);
}

/** The keys that have a part of their own, and what of each period is each one's; null: all others. Causes have all of theirs, in their own order. */
function inParts(
  keys: readonly string[],
  periods: readonly WaterPeriod[],
  by: By,
): { keys: (string | null)[]; of: Map<string | null, number>[] } {
  const own = by === "cause" ? CAUSES.filter((c) => keys.includes(c)) : keys.slice(0, MOST_PARTS);
  const known = new Set<string>(own);
  const of = periods.map((p) => {
    const parts = new Map<string | null, number>();
    for (const [key, m3] of Object.entries(p.by)) {
      const part = known.has(key) ? key : null;
      parts.set(part, (parts.get(part) ?? 0) + m3);
    }
    return parts;
  });
  return { keys: [...own, ...(keys.length > own.length ? [null] : [])], of };
}
