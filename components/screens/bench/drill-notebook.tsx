"use client";
import { Scroller } from "@/components/kit/scroller";
import { Table } from "@/components/kit/table";
import { useWorkspace } from "@/components/draft/site-draft";
import { localClock } from "@/core/dates/wall-time";
import type { Step } from "@/core/drill/advice";
import type { Drill, Told } from "@/core/drill/drill";
import { checkWords, resultWords, standingWords } from "@/core/drill/words";
import type { SiteFile } from "@/core/site-file/schema";
import { showQuantity } from "@/core/units/units";

/** What the night read, and every check with what it said and cost. `possible`: how many causes each left, once that is known. */
export function DrillNotebook({
  site,
  drill,
  steps,
  told,
  possible,
}: {
  site: SiteFile;
  drill: Drill;
  steps: Step[];
  told: Told[];
  possible: number[] | null;
}) {
  const { units } = useWorkspace("units");
  const sum = (of: (t: Told) => number): number => told.reduce((total, t) => total + of(t), 0);
  return (
    <section aria-label="Notebook" className="min-w-0 max-xl:order-first">
      <h3 className="text-lg">Notebook</h3>
      {drill.night.map((n, i) => (
        <p key={n.at} className={i === 0 ? "mb-1" : "text-sm mb-1"}>
          {i === 0 ? "In the night, at " : "At "}
          {localClock(site.site.timeZone, n.at)}, {standingWords(site, n.step.standing)}:{" "}
          {resultWords(site, n.result, units)}; expected {showQuantity(n.expectedLpm, "flow", units, 1)}.
        </p>
      ))}
      {possible && (
        <p className="text-sm text-faint mb-1">
          {possible[0] === 1 ? "That left one cause." : `That left ${possible[0]} causes.`}
        </p>
      )}
      <Scroller>
        <Table aria-label="Checks made">
          <thead>
            <tr>
              <th className="text-right">#</th>
              <th>Check</th>
              <th>It said</th>
              {possible ? <th className="text-right">Causes left</th> : <th className="text-right">Lost</th>}
            </tr>
          </thead>
          <tbody>
            {steps.length === 0 && (
              <tr>
                <td colSpan={4}>Nothing tried yet.</td>
              </tr>
            )}
            {steps.map((s, i) => (
              // biome-ignore lint/suspicious/noArrayIndexKey: each is its place in the list
              <tr key={i}>
                <td className="text-right">{i + 1}</td>
                <td>
                  {checkWords(site, s.check)}
                  <span className="block text-sm text-faint">{standingWords(site, s.standing)}</span>
                </td>
                <td>
                  <strong>{resultWords(site, (told[i] as Told).result, units)}</strong>
                </td>
                <td className="text-right">
                  {possible ? possible[i + 1] : showQuantity((told[i] as Told).lostL, "volume", units)}
                </td>
              </tr>
            ))}
          </tbody>
        </Table>
      </Scroller>
      <p className="mt-1 text-lg">
        <span className="text-faint">so far</span> <strong>{Math.round(sum((t) => t.seconds) / 60)} min</strong>,{" "}
        <span className="text-faint">lost</span>{" "}
        <strong className={sum((t) => t.lostL) > 1 ? "text-error" : ""}>
          {showQuantity(
            sum((t) => t.lostL),
            "volume",
            units,
          )}
        </strong>
        , <span className="text-faint">used for checks</span>{" "}
        <strong>
          {showQuantity(
            sum((t) => t.usedL),
            "volume",
            units,
          )}
        </strong>
      </p>
    </section>
  );
}
