"use client";
import dynamic from "next/dynamic";
import Link from "next/link";
import { useMemo } from "react";
import { useSettings } from "@/components/data/use-organisation";
import { useOfficeWater } from "@/components/data/use-water";
import { isMonth, MonthStepper } from "@/components/frame/month-stepper";
import { PageHead } from "@/components/frame/page-head";
import { useScreenParam } from "@/components/frame/use-screen-param";
import { type Conventions, ConventionsProvider, useConventions } from "@/components/kit/conventions";
import { type Column, DataTable } from "@/components/kit/data-table";
import { asIso } from "@/components/kit/dates";
import { Problem } from "@/components/kit/notice";
import { TakenAway } from "@/components/kit/taken-away";
import type { OfficeWater, SiteWater } from "@/contracts/water";
import { addMonths } from "@/core/dates/wall-time";
import { officeWaterCsv } from "@/core/record/water-csv";
import { showNumber } from "@/core/units/units";

const WaterChart = dynamic(() => import("@/components/charts/water-chart").then((m) => m.WaterChart), { ssr: false });

const L_A_M3 = 1000;
/** Less than this share of all is no more than what valves let through as they close. */
const WORTH_TELLING = 0.001;

/** What all sites used in twelve months, on what and against what, and which of them most. */
export function WaterScreen({ who }: { who: string }) {
  const { settings } = useSettings();
  return (
    <ConventionsProvider system={settings?.units ?? "metric"}>
      <Water who={who} />
    </ConventionsProvider>
  );
}

function Water({ who }: { who: string }) {
  const conventions = useConventions();
  const { month: monthName } = conventions;
  const today = asIso(new Date()).slice(0, 7);
  const [to, setTo] = useScreenParam<string>("to", today, { fits: isMonth });
  const from = addMonths(`${to}-01`, -11).slice(0, 7);
  const { water, problem } = useOfficeWater(from, to);
  const columns = useMemo(() => columnsIn(conventions), [conventions]);
  return (
    <>
      <PageHead
        title="Water"
        who={who}
        views={<MonthStepper month={to} today={today} last={today} onMonth={setTo} />}
        about={`twelve months, from ${monthName(from)}`}
        tools={water && <TakenAway csv={() => officeWaterCsv(water.sites)} name={`water-${from}-${to}`} />}
      />
      <main className="px-4 pb-8">
        {problem && <Problem>{problem}</Problem>}
        {!water && !problem && <p role="status">Adding up…</p>}
        {water && (
          <>
            <Sums water={water} />
            {water.months.length > 0 && <Chart water={water} from={from} />}
            <DataTable
              label="Water by site"
              rows={water.sites}
              columns={columns}
              idOf={(s) => s.siteId}
              sorting={[{ id: "used", desc: true }]}
              empty="No site yet."
            />
          </>
        )}
      </main>
    </>
  );
}

function Sums({ water }: { water: OfficeWater }) {
  const { quantity } = useConventions();
  const litres = water.months.reduce((sum, m) => sum + m.litres, 0);
  const lost = water.months.reduce((sum, m) => sum + m.lostL, 0);
  const known = water.sites.filter((s) => s.litres !== null).length;
  return (
    <p className="mb-3" role="status">
      <strong>{quantity(litres / L_A_M3, "bulk")}</strong> at {known} of {water.sites.length} sites
      {lost >= WORTH_TELLING * litres && lost > 0 && (
        <>
          ; <strong className="text-error">{quantity(lost / L_A_M3, "bulk")}</strong> of it leaks and breaks,{" "}
          {showNumber((100 * lost) / litres, 1)} %
        </>
      )}
      {known < water.sites.length && <span className="text-faint">. Of the others nothing was read.</span>}
    </p>
  );
}

function Chart({ water, from }: { water: OfficeWater; from: string }) {
  const { month: name, unit, fromShown } = useConventions();
  const shown = (litres: number): number => litres / L_A_M3 / fromShown(1, "bulk");
  const months = Array.from({ length: 12 }, (_, i) => addMonths(`${from}-01`, i).slice(0, 7));
  const of = (month: string) => water.months.find((m) => m.month === month);
  return (
    <div className="mb-5 max-w-5xl">
      <WaterChart
        label="Water of all sites by month"
        labels={months.map(name)}
        unit={unit("bulk")}
        parts={[
          { name: "used", tone: "water", values: months.map((m) => shown((of(m)?.litres ?? 0) - (of(m)?.lostL ?? 0))) },
          { name: "leaks and breaks", tone: "alarm", values: months.map((m) => shown(of(m)?.lostL ?? 0)) },
          { name: "not read, as planned", tone: "estimate", values: months.map((m) => shown(of(m)?.estimatedL ?? 0)) },
        ]}
        lines={[]}
      />
    </div>
  );
}

const ofBudget = (s: SiteWater): number | null =>
  s.litres === null || s.budgetM3 === null || s.budgetM3 <= 0 ? null : s.litres / L_A_M3 / s.budgetM3;

function columnsIn({ unit, figure }: Conventions): Column<SiteWater>[] {
  const bulk = (litres: number | null): string => (litres === null ? "–" : figure(litres / L_A_M3, "bulk", 0));
  const column = (
    id: string,
    header: string,
    value: (s: SiteWater) => number | null,
    cell: (s: SiteWater) => React.ReactNode,
    narrow = false,
  ): Column<SiteWater> => ({
    id,
    header,
    accessorFn: (s) => value(s) ?? -1,
    cell: ({ row }) => cell(row.original),
    sortDescFirst: true,
    meta: { numeric: true, ...(narrow ? {} : { className: "max-sm:hidden" }) },
  });
  const u = unit("bulk");
  return [
    {
      id: "site",
      header: "Site",
      accessorFn: (s) => s.site.toLowerCase(),
      cell: ({ row: { original: s } }) => (
        <Link className="font-semibold hover:underline" href={`/sites/${s.siteId}/log?view=water`}>
          {s.site}
          {s.client && <span className="block text-xs font-normal text-faint">{s.client}</span>}
        </Link>
      ),
    },
    column(
      "used",
      `Used, ${u}`,
      (s) => s.litres,
      (s) => bulk(s.litres),
      true,
    ),
    column(
      "lost",
      `Leaks and breaks, ${u}`,
      (s) => s.lostL,
      (s) => (
        <span className={(s.lostL ?? 0) > WORTH_TELLING * (s.litres ?? 0) ? "text-error" : ""}>{bulk(s.lostL)}</span>
      ),
      true,
    ),
    column(
      "unread",
      `Not read, as planned, ${u}`,
      (s) => s.estimatedL,
      (s) => bulk(s.estimatedL),
    ),
    column(
      "before",
      `A year before, ${u}`,
      (s) => s.beforeL,
      (s) => bulk(s.beforeL),
    ),
    column("budget", "Of its budget, %", ofBudget, (s) => {
      const share = ofBudget(s);
      if (share === null) return <span className="text-faint">–</span>;
      return <span className={share > 1 ? "font-semibold text-error" : ""}>{Math.round(100 * share)}</span>;
    }),
  ];
}
