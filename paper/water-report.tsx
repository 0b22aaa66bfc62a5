import { Rect, Svg, Text as SvgText, View } from "@react-pdf/renderer";
import type { WaterUsed } from "../contracts/water.ts";
import { writtenDate, writtenMonth } from "../core/dates/written.ts";
import { CAUSES, type Cause } from "../core/record/causes.ts";
import type { WaterPeriod } from "../core/record/water-table.ts";
import { waterTable } from "../core/record/water-table.ts";
import { waterCosts } from "../core/record/water-costs.ts";
import type { SiteFile } from "../core/site-file/schema.ts";
import { showNumber, showQuantity, toShown, unitLabel } from "../core/units/units.ts";
import { Grid, Part, Title, Words } from "./parts.tsx";

/** What each cause is called where a client reads it. */
const FOR_CLIENTS: Record<Cause, string> = {
  scheduled: "watering as planned",
  handWatering: "watering by hand",
  byHand: "stations run by hand",
  learning: "flow tests",
  offSchedule: "leaks",
  broken: "broken pipes and heads",
  metered: "water by the meter, which does not tell for what",
};
const WASTED: readonly Cause[] = ["offSchedule", "broken"];
type Units = SiteFile["site"]["units"];

/** Water of some months for whom it was used, with pictures and in plain words. @param used by cause and month */
export function WaterReport({ site, used }: { site: SiteFile; used: WaterUsed }) {
  const { units, currency } = site.site;
  const { periods } = waterTable(site, used);
  const costs = waterCosts(site, used.sources);
  const total = periods.reduce((sum, p) => sum + p.readM3, 0);
  const bulk = (m3: number): string => showQuantity(m3, "bulk", units, 0);
  const money = (sum: number): string => `${showNumber(sum, 2, 2)}${currency ? ` ${currency}` : ""}`;
  const causes = CAUSES.filter((c) => periods.some((p) => (p.by[c] ?? 0) > 0));
  const of = (cause: string): number => periods.reduce((sum, p) => sum + (p.by[cause] ?? 0), 0);
  const budget = sumOf(periods, "budgetM3");
  const plan = sumOf(periods, "planM3");
  const lost = WASTED.reduce((sum, c) => sum + of(c), 0);
  const cost = [...costs.values()].reduce((sum, c) => sum + c.cost, 0);
  const unread = periods.reduce((sum, p) => sum + (p.unreadH ?? 0), 0);
  return (
    <>
      <Title>Water report</Title>
      <Words strong>
        {writtenDate(used.from, units)} to {writtenDate(used.to, units)}
      </Words>
      <Part title="In short">
        {periods.length === 0 ? (
          <Words>Nothing was read in this time.</Words>
        ) : (
          <>
            <Words>
              The site used {bulk(total)} of water{plan === null ? "" : `; its programs were set to use ${bulk(plan)}`}.
            </Words>
            {budget !== null && (
              <Words>
                Its budget for this time is {bulk(budget)}:{" "}
                {total <= budget
                  ? `${bulk(budget - total)} of it was left.`
                  : `it was passed by ${bulk(total - budget)}.`}
              </Words>
            )}
            {lost > 0 && (
              <Words>
                {bulk(lost)} of it was lost to leaks and breaks
                {total > 0 ? `, ${showNumber((100 * lost) / total, 1)} % of all` : ""}.
              </Words>
            )}
            {costs.size > 0 && <Words>It cost {money(cost)}.</Words>}
            {unread >= 1 && (
              <Words>
                For {showNumber(unread, 0)} hours nothing was read; about{" "}
                {bulk(periods.reduce((sum, p) => sum + p.estimatedM3, 0))} was planned in them, which is not counted
                above.
              </Words>
            )}
          </>
        )}
      </Part>
      {periods.length > 0 && (
        <>
          <Part title="Month by month" together>
            <Bars periods={periods} units={units} />
          </Part>
          <Part title="In figures">
            <Grid
              columns={[
                { head: "Month", share: 12 },
                { head: `Used, ${unitLabel("bulk", units)}`, share: 13, right: true },
                ...causes.map((c) => ({ head: FOR_CLIENTS[c], share: 13, right: true })),
                { head: "Planned", share: 12, right: true },
                { head: "Budget", share: 12, right: true },
                { head: "A year before", share: 13, right: true },
                ...(costs.size > 0 ? [{ head: `Cost${currency ? `, ${currency}` : ""}`, share: 12, right: true }] : []),
              ]}
              rows={[...periods.map((p) => monthRow(p)), totalRow()]}
            />
          </Part>
        </>
      )}
    </>
  );

  function figure(m3: number | null): string {
    return m3 === null ? "" : showNumber(toShown(m3, "bulk", units), 0);
  }
  function monthRow(p: WaterPeriod): string[] {
    const of = costs.get(p.at);
    return [
      writtenMonth(p.at),
      figure(p.readM3),
      ...causes.map((c) => figure(p.by[c] ?? 0)),
      figure(p.planM3),
      figure(p.budgetM3),
      figure(p.yearBeforeM3),
      ...(costs.size > 0 ? [of ? showNumber(of.cost, 2, 2) : ""] : []),
    ];
  }
  function totalRow(): string[] {
    return [
      "All",
      figure(total),
      ...causes.map((c) => figure(of(c))),
      figure(plan),
      figure(budget),
      figure(sumOf(periods, "yearBeforeM3")),
      ...(costs.size > 0 ? [showNumber(cost, 2, 2)] : []),
    ];
  }
}

/** Of all months; null where it is known of none. */
function sumOf(periods: readonly WaterPeriod[], key: "planM3" | "budgetM3" | "yearBeforeM3"): number | null {
  const known = periods.flatMap((p) => p[key] ?? []);
  return known.length === 0 ? null : known.reduce((sum, m3) => sum + m3, 0);
}

const CHART = { width: 515, height: 150, left: 46, bottom: 16 };

/** Used as bars, the plan as an outline behind each, leaks and breaks black: to be read without colours. */
function Bars({ periods, units }: { periods: readonly WaterPeriod[]; units: Units }) {
  const most = Math.max(1e-9, ...periods.map((p) => Math.max(p.readM3, p.planM3 ?? 0)));
  const [wide, high] = [CHART.width - CHART.left, CHART.height - CHART.bottom - 8];
  const step = wide / periods.length;
  const bar = Math.min(34, step * 0.62);
  const tall = (m3: number): number => (m3 / most) * high;
  const y = (m3: number): number => CHART.height - CHART.bottom - tall(m3);
  const small = { fontSize: 7.5, fontFamily: "Barlow Semi Condensed" };
  return (
    <View>
      <Svg width={CHART.width} height={CHART.height}>
        {[0, 0.5, 1].map((share) => (
          <SvgText key={share} x={CHART.left - 6} y={y(share * most) + 3} style={small} textAnchor="end">
            {showNumber(toShown(share * most, "bulk", units), 0)}
          </SvgText>
        ))}
        {[0, 0.5, 1].map((share) => (
          <Rect key={share} x={CHART.left} y={y(share * most)} width={wide} height={0.4} fill="#999" />
        ))}
        {periods.map((p, i) => {
          const x = CHART.left + i * step + (step - bar) / 2;
          const lost = WASTED.reduce((sum, c) => sum + (p.by[c] ?? 0), 0);
          return [
            <Rect
              key={`${p.at} plan`}
              x={x - 3}
              y={y(p.planM3 ?? 0)}
              width={bar + 6}
              height={tall(p.planM3 ?? 0)}
              fill="#fff"
              stroke="#000"
              strokeWidth={0.6}
            />,
            <Rect key={`${p.at} used`} x={x} y={y(p.readM3)} width={bar} height={tall(p.readM3)} fill="#999" />,
            <Rect key={`${p.at} lost`} x={x} y={y(lost)} width={bar} height={tall(lost)} fill="#000" />,
            <SvgText key={p.at} x={x + bar / 2} y={CHART.height - 4} style={small} textAnchor="middle">
              {writtenMonth(p.at).slice(0, periods.length > 12 ? 3 : 8)}
            </SvgText>,
          ];
        })}
      </Svg>
      <Words>
        Grey: used, {unitLabel("bulk", units)}. Black, at its foot: leaks and breaks. Outline: what the programs were
        set to use.
      </Words>
    </View>
  );
}
