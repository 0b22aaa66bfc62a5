"use client";
import Link from "next/link";
import { useNightState, useSummaryBefore, useWorkspace } from "@/components/draft/site-draft";
import { Button } from "@/components/kit/button";
import { classes } from "@/components/kit/classes";
import { type Conventions, useConventions } from "@/components/kit/conventions";
import { RULE_WORDS } from "@/components/words/rule-words";
import type { NightSummary } from "@/core/summary/night-summary";

const many = (n: number, one: string): string => `${n} ${one}${n === 1 ? "" : "s"}`;
const EMPTY_WORDS = "nothing runs";

type Told = { key: string; term: string; value: string; tone?: "alarm" | "caution" | undefined };

/** What the line says of a night, figure by figure. */
function told(now: NightSummary, date: string, { quantity, clock }: Conventions): Told[] {
  const { binding, watched, shortfallMin, findings } = now;
  const unbound = now.finish === null ? EMPTY_WORDS : "nothing binds";
  return [
    {
      key: "binding",
      term: "binds",
      value: binding
        ? `${binding.name} ${quantity(binding.ceilingLpm, "flow")}, ${RULE_WORDS[binding.rule] ?? binding.rule}`
        : unbound,
    },
    { key: "ends", term: "ends", value: now.finish === null ? "–" : clock(now.finish, date) },
    { key: "water", term: "water", value: now.litres > 0 ? `${quantity(now.litres, "volume")}` : "–" },
    {
      key: "short",
      term: "short",
      value: `${Math.round(shortfallMin)} min`,
      tone: shortfallMin >= 1 ? "alarm" : undefined,
    },
    {
      key: "watched",
      term: "watched",
      value: watched === null ? "–" : `${Math.round(watched * 100)} %`,
      tone: watched !== null && watched < 0.7 ? "caution" : undefined,
    },
    {
      key: "findings",
      term: "findings",
      value: `${many(findings.errors, "error")}, ${many(findings.warnings, "warning")}`,
      tone: findings.errors > 0 ? "alarm" : undefined,
    },
  ];
}

/** Along the bottom: what binds, when the night ends, what is short, watched, found; with what it was before the unsaved edit. */
export function TellLine({ onKeys }: { onKeys: () => void }) {
  const { siteId, date } = useWorkspace("siteId", "date");
  const { status, why, answer } = useNightState();
  const conventions = useConventions();
  const before = useSummaryBefore();
  const now = answer ? told(answer.summary, date, conventions) : null;
  const was = new Map(before ? told(before, date, conventions).map((t) => [t.key, t.value]) : []);
  return (
    // biome-ignore lint/a11y/useAriaPropsSupportedByRole: the line is a landmark and is named
    <footer
      aria-label="Tell-line"
      className="no-print flex items-center gap-4 border-t-2 border-base-content bg-base-200 px-4 py-1"
    >
      <dl
        aria-live="polite"
        className={classes(
          "flex min-w-0 grow gap-x-4 gap-y-0 overflow-x-auto whitespace-nowrap sm:flex-wrap",
          status === "working" && "opacity-60",
        )}
        data-night={status}
      >
        <div className="flex gap-1.5">
          <dt className="text-faint">night of</dt>
          <dd>{conventions.date(date)}</dd>
        </div>
        {now?.map((t) => (
          <div key={t.key} className="flex gap-1.5">
            <dt className="text-faint">{t.term}</dt>
            <dd data-tell={t.key}>
              <span
                className={classes(
                  "font-semibold",
                  t.tone === "alarm" && "text-error",
                  t.tone === "caution" && "text-warning",
                )}
              >
                {t.key === "findings" ? (
                  <Link
                    className="inline-flex min-h-6 items-center underline underline-offset-2"
                    href={`/sites/${siteId}/findings`}
                  >
                    {t.value}
                  </Link>
                ) : (
                  t.value
                )}
              </span>
              {was.has(t.key) && was.get(t.key) !== t.value && (
                <span className="text-warning"> was {was.get(t.key)}</span>
              )}
            </dd>
          </div>
        ))}
        {status === "failed" && (
          <div className="font-semibold text-error">The night could not be worked out: {why}</div>
        )}
        {status === "working" && <div className="text-faint">working it out…</div>}
      </dl>
      <Button rank="quiet" className="hidden shrink-0 text-xs font-normal sm:inline-flex" onClick={onKeys}>
        ? keys
      </Button>
    </footer>
  );
}
