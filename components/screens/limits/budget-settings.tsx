"use client";
import { useConventions } from "@/components/kit/conventions";
import { Scroller } from "@/components/kit/scroller";
import { Table } from "@/components/kit/table";
import { RESPONSES } from "@/components/words/response-words";
import type { BudgetPoint } from "@/core/limits/budget/budget";
import { mainHoldOffS } from "@/core/site-file/hold-off";
import type { PolicyOverride } from "@/core/site-file/policy-schema";
import type { Policy, SiteFile } from "@/core/site-file/schema";

/** Beside what stands: every setting that one choice changes, and what it is worth. */
export function BudgetSettings({
  before,
  point,
  children,
}: {
  before: SiteFile;
  point: BudgetPoint;
  children: React.ReactNode;
}) {
  const { quantity } = useConventions();
  const after = point.site;
  const holdOffs = after.mainlines.flatMap((m, i) => {
    const was = mainHoldOffS(before.mainlines[i] ?? {});
    return mainHoldOffS(m) === was ? [] : [`${m.name} ${was} → ${mainHoldOffS(m)} s`];
  });
  const mains = after.mainlines.filter((m) => Object.keys(m.policy ?? {}).length > 0);
  const own = after.stations.filter((s) => s.highPercent !== undefined || s.lowPercent !== undefined);
  return (
    <section aria-label="Settings of this choice" className="my-3 max-w-7xl border-l-4 border-primary py-1 pl-3">
      <h4 className="text-lg">{quantity(point.figures.litresAYear, "volume")} lost in a year: the settings</h4>
      <dl className="grid grid-cols-[auto_1fr] gap-x-4">
        <dt>Site</dt>
        <dd>
          {policyLine(before.policy)} → <strong>{policyLine(after.policy)}</strong>
        </dd>
        {after.policy.basis === "graded" && (
          <>
            <dt>Bands</dt>
            <dd>
              {(after.policy.bands ?? []).map((b) => `from ${quantity(b.fromLpm, "flow")} ± ${b.percent} %`).join(", ")}
            </dd>
          </>
        )}
        <dt>Hold-off</dt>
        <dd>{holdOffs.length > 0 ? holdOffs.join(", ") : "as it is"}</dd>
        <dt>Mains</dt>
        <dd>
          {mains.length > 0
            ? mains.map((m) => `${m.name} ${overrideLine(m.policy ?? {})}`).join(", ")
            : "none with limits of its own"}
        </dd>
        <dt>Stations</dt>
        <dd>{own.length === 0 ? "none with limits of its own" : `${own.length} with limits of their own`}</dd>
      </dl>
      {own.length > 0 && (
        <details className="my-1">
          <summary className="cursor-pointer">Station by station</summary>
          <Scroller className="max-h-80">
            <Table className="max-w-xl">
              <thead>
                <tr>
                  <th>Station</th>
                  <th className="text-right">High, was</th>
                  <th className="text-right">High</th>
                  <th className="text-right">Low, was</th>
                  <th className="text-right">Low</th>
                </tr>
              </thead>
              <tbody>
                {own.map((s) => {
                  const was = before.stations.find((x) => x.id === s.id);
                  return (
                    <tr key={s.id}>
                      <td>
                        {s.number} {s.name}
                      </td>
                      <td className="text-right text-faint">{percent("+", was?.highPercent)}</td>
                      <td className="text-right">{percent("+", s.highPercent)}</td>
                      <td className="text-right text-faint">{percent("−", was?.lowPercent)}</td>
                      <td className="text-right">{percent("−", s.lowPercent)}</td>
                    </tr>
                  );
                })}
              </tbody>
            </Table>
          </Scroller>
        </details>
      )}
      <div className="mt-2">{children}</div>
    </section>
  );
}

const percent = (sign: string, value: number | undefined): string =>
  value === undefined ? "as site" : `${sign}${value} %`;

const policyLine = (p: Policy): string =>
  [
    p.basis === "graded" ? "graded" : `+${p.highPercent}, −${p.lowPercent} %`,
    `${p.persistenceS} s`,
    ...(p.retest ? ["retest"] : []),
    RESPONSES.find(([id]) => id === p.highResponse)?.[1] ?? p.highResponse,
  ].join(", ");

const overrideLine = (p: PolicyOverride): string =>
  [
    ...(p.highPercent === undefined ? [] : [`+${p.highPercent} %`]),
    ...(p.lowPercent === undefined ? [] : [`−${p.lowPercent} %`]),
    ...(p.persistenceS === undefined ? [] : [`${p.persistenceS} s`]),
  ].join(" ") || "as it was";
