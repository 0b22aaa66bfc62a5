"use client";
import Link from "next/link";
import { useWorkspace } from "@/components/draft/workspace";
import { RULE_WORDS } from "@/components/words/rule-words";
import { showQuantity } from "@/core/units/units";

/** Ending after noon of the next day is said in words: it is no night any more. */
const clock = (iso: string | null, date: string): string =>
  iso === null ? "–" : `${iso.slice(11, 16)}${iso.slice(0, 10) > date && iso.slice(11, 13) >= "12" ? " next day" : ""}`;

const many = (n: number, one: string): string => `${n} ${one}${n === 1 ? "" : "s"}`;
const count = (f: { errors: number; warnings: number }): string =>
  `${many(f.errors, "error")}, ${many(f.warnings, "warning")}`;

/** Along the bottom: what binds, when the night ends, what is short, watched, found; with what it was before the unsaved edit. */
export function TellLine() {
  const { siteId, night, baseSummary, changes, units, date } = useWorkspace();
  const now = night?.summary;
  const was = changes.length > 0 ? baseSummary : null;
  const before = (value: string, old: string | undefined): React.ReactNode =>
    old !== undefined && old !== value ? <span className="text-warning font-semibold"> was {old}</span> : null;
  const ends = now ? clock(now.finish, date) : "…";
  const short = now ? `${Math.round(now.shortfallMin)} min` : "…";
  const watched = now ? (now.watched === null ? "–" : `${Math.round(now.watched * 100)} %`) : "…";
  const found = now ? count(now.findings) : "…";
  const binding = now?.binding
    ? `${now.binding.name} ${showQuantity(now.binding.ceilingLpm, "flow", units)}, ${RULE_WORDS[now.binding.rule] ?? now.binding.rule}`
    : now
      ? "nothing binds"
      : "…";
  const oldBinding = was
    ? was.binding
      ? `${was.binding.name} ${showQuantity(was.binding.ceilingLpm, "flow", units)}, ${RULE_WORDS[was.binding.rule] ?? was.binding.rule}`
      : "nothing binds"
    : undefined;
  return (
    <footer
      aria-label="Tell-line"
      aria-live="polite"
      className="no-print sticky bottom-0 z-20 bg-base-100 border-t-2 border-base-content"
    >
      <dl className="flex flex-wrap gap-x-6 gap-y-0 px-4 py-1">
        <Tell term="binds">
          <span data-tell="binding">{binding}</span>
          {before(binding, oldBinding)}
        </Tell>
        <Tell term={`night of ${date} ends`}>
          <span data-tell="ends">{ends}</span>
          {before(ends, was ? clock(was.finish, date) : undefined)}
        </Tell>
        <Tell term="shortfall">
          <span className={now && now.shortfallMin >= 1 ? "text-error font-semibold" : ""}>{short}</span>
          {before(short, was ? `${Math.round(was.shortfallMin)} min` : undefined)}
        </Tell>
        <Tell term="run time watched">
          <span
            className={now?.watched !== null && now && (now.watched ?? 1) < 0.7 ? "text-warning font-semibold" : ""}
          >
            {watched}
          </span>
          {before(watched, was ? (was.watched === null ? "–" : `${Math.round(was.watched * 100)} %`) : undefined)}
        </Tell>
        <Tell term="findings">
          <Link className="underline underline-offset-2" href={`/sites/${siteId}/findings`}>
            {found}
          </Link>
          {before(found, was ? count(was.findings) : undefined)}
        </Tell>
      </dl>
    </footer>
  );
}

function Tell({ term, children }: { term: string; children: React.ReactNode }) {
  return (
    <div className="flex gap-1.5">
      <dt className="text-faint">{term}</dt>
      <dd>{children}</dd>
    </div>
  );
}
