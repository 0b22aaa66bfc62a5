"use client";
import { useConventions } from "@/components/kit/conventions";
import { X } from "lucide-react";
import { Mark } from "@/components/kit/notice";
import { Checkbox } from "@/components/kit/inputs";
import Link from "next/link";
import { useWorkspace } from "@/components/draft/site-draft";
import { expectedFlow } from "@/core/site-file/expected-flow";
import type { Station } from "@/core/site-file/schema";
import { showQuantity } from "@/core/units/units";
import { HOW } from "@/components/words/learning-words";
import { REFUSAL, STALE } from "./words";

export type Standing = {
  station: Station;
  reasons: (keyof typeof REFUSAL)[];
  stale: (keyof typeof STALE)[];
  beside: string[] | null;
  rank: number;
};

/** What the figure in use is from, and since when. */
function standsSince(s: Station, from: string, dateAt: (instant: string) => string): string {
  const learned = from === "learned" ? s.learned : undefined;
  const since = s.expectedSince ?? learned?.at;
  const how = learned?.how ? HOW[learned.how] : from;
  return `${from === "entered" ? "by hand" : how}${since ? `, ${dateAt(since)}` : ""}`;
}

export function BeforeRow({
  standing: { station: s, reasons, stale, beside },
  on,
  locked,
  onToggle,
}: {
  standing: Standing;
  on: boolean;
  locked: boolean;
  onToggle: (id: string, on: boolean) => void;
}) {
  const { siteId, units } = useWorkspace("siteId", "units");
  const { dateAt } = useConventions();
  const now = expectedFlow(s);
  return (
    <tr>
      <td>
        {reasons.length === 0 ? (
          <Checkbox
            aria-label={`Learn station ${s.number}`}
            checked={on}
            disabled={locked}
            onChange={(e) => onToggle(s.id, e.target.checked)}
          />
        ) : (
          <span aria-hidden="true" className="text-warning">
            <X className="inline size-[1em] align-[-0.12em]" aria-hidden />
          </span>
        )}
      </td>
      <td>
        {s.number} {s.name}
      </td>
      <td className="text-right">{now ? showQuantity(now.lpm, "flow", units, 1) : "none"}</td>
      <td>{now ? standsSince(s, now.from, dateAt) : ""}</td>
      <td>
        {reasons.length === 0 && stale.length === 0 && <span className="text-faint">ready</span>}
        {reasons.length === 0 && stale.length > 0 && (
          <span className="text-warning">
            <Mark tone="caution" /> {stale.map((r) => STALE[r]).join("; ")}
          </span>
        )}
        {reasons.map((r, i) => (
          <span key={r} className="text-warning">
            {i > 0 ? "; " : ""}
            <Link href={`/sites/${siteId}/${REFUSAL[r].mend}`}>{REFUSAL[r].words}</Link>
          </span>
        ))}
        {beside && reasons.length === 0 && <span>, by difference beside {beside.join(", ")}</span>}
      </td>
    </tr>
  );
}
