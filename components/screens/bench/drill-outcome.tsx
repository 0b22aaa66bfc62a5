"use client";
import { Scroller } from "@/components/kit/scroller";
import { Table } from "@/components/kit/table";
import type { Wire } from "@/components/data/request";
import { useWorkspace } from "@/components/draft/site-draft";
import { useNightsFind } from "@/components/draft/use-nights-find";
import { isFoundNextMorning } from "@/core/reckon/next-morning";
import { localIso } from "@/core/dates/wall-time";
import type { Step } from "@/core/drill/advice";
import type { Drill, DrillAdvice, DrillOutcome } from "@/core/drill/drill";
import type { Cause } from "@/core/drill/drill-bench";
import { causeWords, checkWords, resultWords, standingWords } from "@/core/drill/words";
import type { SiteFile } from "@/core/site-file/schema";
import { showNumber, showQuantity } from "@/core/units/units";
import type { DrillBook } from "@/contracts/drills";

const average = (n: number): string => showNumber(n, 1);

/** Right or not, what it cost, the better check, and a short way. */
export function DrillOutcomePanel({
  going: { date, outcome, advice, site },
}: {
  going: {
    drill: Drill;
    date: string;
    site: SiteFile;
    steps: Step[];
    outcome: DrillOutcome;
    advice: DrillAdvice | null;
  };
}) {
  const { units } = useWorkspace("units");
  const short = advice?.short;
  const nights = useNightsFind(site, date);
  const [hidden, named] = [causeWords(site, outcome.hidden), causeWords(site, outcome.named)];
  const told = outcome.right ? `It was ${hidden}.` : `You named ${named}; it was ${hidden}.`;
  const was = outcome.alike ? `It was ${hidden}; nothing on this site tells it from ${named}.` : told;
  return (
    <section aria-label="Outcome" className="border-y-2 border-base-content py-2 mb-3 max-w-[70rem]">
      <p className="text-lg">
        <strong className={outcome.right ? "" : "text-error"}>{outcome.right ? "Right" : "Not that"}</strong> {was} It
        took {Math.round(outcome.seconds / 60)} min and lost {showQuantity(outcome.lostL, "volume", units)}.
      </p>
      {advice?.better && (
        <p className="mt-1">
          Check {advice.better.index + 1} left {average(advice.better.made.left)} causes of{" "}
          {advice.possible[advice.better.index]} on average. Better then:{" "}
          <strong>{checkWords(site, advice.better.best.step.check)}</strong> with{" "}
          {standingWords(site, advice.better.best.step.standing)}, which leaves {average(advice.better.best.left)} in{" "}
          {Math.max(1, Math.round(advice.better.best.seconds / 60))} min.
        </p>
      )}
      {advice && !advice.better && <p className="mt-1">No other check would have told more at any point.</p>}
      {short &&
        (short.steps.length === 0 ? (
          <p className="mt-1">The night's readings alone left nothing else: no check was needed to name it.</p>
        ) : (
          <>
            <p className="mt-1">
              A short way, {Math.max(1, Math.round(short.seconds / 60))} min and{" "}
              {showQuantity(short.lostL, "volume", units)} lost:
            </p>
            <ol className="list-decimal pl-6">
              {short.steps.map((s, i) => (
                // biome-ignore lint/suspicious/noArrayIndexKey: each is its place in the list
                <li key={i}>
                  {checkWords(site, s.step.check)}, {standingWords(site, s.step.standing)}:{" "}
                  {resultWords(site, s.result, units)} <span className="text-faint">leaves {s.left}</span>
                </li>
              ))}
            </ol>
          </>
        ))}
      {nights && isFoundNextMorning(site, nights, outcome.hidden) && (
        <p className="mt-1">Found next morning, had nobody looked: the readings of one night name it.</p>
      )}
      {advice && (
        <p className="text-sm text-faint mt-1">
          Worked out from what each possible cause, one at a time and of its usual size, would have said.
        </p>
      )}
    </section>
  );
}

/** What was done before, by whom. */
export function DrillResults({ book, site }: { book: Wire<DrillBook>; site: SiteFile }) {
  const { units } = useWorkspace("units");
  if (book.people.length === 0) return null;
  const cause = (c: { kind: string; subjectId: string }): string => causeWords(site, c as Cause);
  return (
    <section aria-label="Results" className="grid lg:grid-cols-[minmax(0,22rem)_minmax(0,1fr)] gap-x-8 gap-y-3 mt-6">
      <Scroller>
        <h3 className="text-lg">By person, all sites</h3>
        <Table aria-label="Drills by person">
          <thead>
            <tr>
              <th>Who</th>
              <th className="text-right">Drills</th>
              <th className="text-right">Right</th>
              <th className="text-right">Checks</th>
              <th className="text-right">Minutes</th>
              <th className="text-right">Lost</th>
            </tr>
          </thead>
          <tbody>
            {book.people.map((p) => (
              <tr key={p.userName}>
                <td>{p.userName}</td>
                <td className="text-right">{p.drills}</td>
                <td className="text-right">{p.right}</td>
                <td className="text-right">{average(p.checks)}</td>
                <td className="text-right">{average(p.minutes)}</td>
                <td className="text-right">{showQuantity(p.lostL, "volume", units)}</td>
              </tr>
            ))}
          </tbody>
        </Table>
        <p className="text-sm text-faint">Checks, minutes and litres on average.</p>
      </Scroller>
      <Scroller>
        <h3 className="text-lg">On this site</h3>
        <Table aria-label="Drills on this site">
          <thead>
            <tr>
              <th>When</th>
              <th>Who</th>
              <th>It was</th>
              <th>Named</th>
              <th className="text-right">Checks</th>
              <th className="text-right">Minutes</th>
              <th className="text-right">Lost</th>
            </tr>
          </thead>
          <tbody>
            {book.drills.length === 0 && (
              <tr>
                <td colSpan={7}>None yet.</td>
              </tr>
            )}
            {book.drills.map((d) => (
              <tr key={d.id}>
                <td className="whitespace-nowrap">
                  {localIso(site.site.timeZone, Math.floor(Date.parse(d.doneAt) / 1000))
                    .slice(0, 16)
                    .replace("T", " ")}
                </td>
                <td>{d.userName}</td>
                <td>{cause(d.hidden)}</td>
                <td className={d.namedRight ? "" : "text-error"}>{d.namedRight ? "right" : `${cause(d.named)}`}</td>
                <td className="text-right">{d.checks}</td>
                <td className="text-right">{Math.round(d.seconds / 60)}</td>
                <td className="text-right">{showQuantity(d.lostL, "volume", units)}</td>
              </tr>
            ))}
          </tbody>
        </Table>
      </Scroller>
    </section>
  );
}
