"use client";
import { CircleCheck, EyeOff } from "lucide-react";
import { useMemo } from "react";
import { classes } from "@/components/kit/classes";
import { useConventions } from "@/components/kit/conventions";
import { StoneIcon } from "@/components/kit/icons";
import { programStarts } from "@/core/dispatch/queue";
import { subjectName } from "@/core/judge/alarm-words";
import { useNightsFind } from "@/components/draft/use-nights-find";
import { waterworks } from "@/core/network/waterworks";
import { verdicts } from "@/core/limits/verdict";
import { showNumber } from "@/core/units/units";
import type { BenchRun } from "./use-bench";
import { verdictWords } from "./verdict-words";

/** What came of the night: figures, a verdict in words over every fault, and the alarms. */
export function BenchResult({ run }: { run: BenchRun }) {
  const conventions = useConventions();
  const { quantity } = conventions;
  const { file, asked, result } = run;
  const short = result.unwatered.filter((u) => u.minutes >= 0.5);
  const told = useMemo(() => {
    const first = programStarts(waterworks(file), asked.date)[0]?.at;
    if (first === undefined) return [];
    return verdicts(file, asked.date, asked.faults, first, result);
  }, [file, asked, result]);
  // What limits miss may be told by the readings of the whole night.
  const nights = useNightsFind(told.some((v) => !v.alarm) ? file : null, asked.date);
  const figures: [string, string, boolean][] = [
    ["alarms", String(result.alarms.length), result.alarms.length > 0],
    [
      "locked out",
      result.lockouts.length === 0 ? "none" : result.lockouts.map((id) => subjectName(file, id)).join(", "),
      result.lockouts.length > 0,
    ],
    ["delivered", quantity(result.totals.deliveredL, "volume"), false],
    ["lost", quantity(result.totals.lostL, "volume"), result.totals.lostL > 1],
    [
      "not watered",
      short.length === 0
        ? "nothing"
        : `${showNumber(short.reduce((a, u) => a + u.minutes, 0))} min, ${short.length} station${short.length === 1 ? "" : "s"}`,
      short.length > 0,
    ],
  ];
  return (
    <>
      <dl className="my-2 flex flex-wrap gap-x-8 border-y border-base-content py-1" aria-label="Result">
        {figures.map(([term, value, loud]) => (
          <div key={term} className="flex gap-2">
            <dt className="text-faint">{term}</dt>
            <dd className={classes("font-semibold", loud && "text-error")}>{value}</dd>
          </div>
        ))}
      </dl>
      {told.length > 0 && (
        <ul aria-label="Verdict" className="my-2">
          {told
            .map((v) => verdictWords(file, v, conventions, nights))
            .map(({ seen, words }) => (
              <li key={words} className={classes("flex items-baseline gap-2", !seen && "font-semibold text-warning")}>
                {seen ? (
                  <CircleCheck className="size-4 shrink-0 self-center" aria-hidden />
                ) : (
                  <EyeOff className="size-4 shrink-0 self-center" aria-hidden />
                )}
                {words}
              </li>
            ))}
        </ul>
      )}
      {result.alarms.length > 0 && (
        <ul className="my-2" aria-label="Alarms">
          {result.alarms.map((a) => (
            <li key={a.at + a.kind + a.subjectId} className="flex gap-2">
              <span className="inline-flex items-baseline gap-1 whitespace-nowrap font-semibold text-error">
                <StoneIcon className="size-[1em] self-center" /> {a.at.slice(11, 19)}
              </span>
              <span>{a.message}</span>
            </li>
          ))}
        </ul>
      )}
    </>
  );
}
