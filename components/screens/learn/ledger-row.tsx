"use client";
import { Button } from "@/components/kit/button";
import { Checkbox } from "@/components/kit/inputs";
import { Mark } from "@/components/kit/notice";
import type { Proposal } from "@/components/data/use-learning";
import { useWorkspace } from "@/components/draft/site-draft";
import { expectedFlow } from "@/core/site-file/expected-flow";
import { signed, VERDICT } from "./words";
import type { Station } from "@/core/site-file/schema";
import { showNumber, showQuantity } from "@/core/units/units";

/** How far a result is off what stands, else off what was learned before, else off the design; null where nothing is to be compared. */
function offBy(r: Proposal, station: Station, was: Station["learned"]): number | null {
  if (r.verdict === "noFlow") return null;
  const now = r.takenAt === null ? expectedFlow(station)?.lpm : undefined;
  const against = now ?? was?.meanLpm ?? station.designFlowLpm;
  return against ? r.meanLpm / against - 1 : null;
}

function standsBy(now: ReturnType<typeof expectedFlow>): string {
  if (!now) return "none";
  return now.from === "entered" ? "by hand" : now.from;
}

/** One station's result beside what stands, was, and was designed. */
export function LedgerRow({
  result: r,
  station: s,
  odd,
  on,
  selected,
  onSelect,
  onToggle,
}: {
  result: Proposal;
  station: Station;
  odd: boolean;
  on: boolean;
  selected: boolean;
  onSelect: () => void;
  onToggle: (on: boolean) => void;
}) {
  const { units, canEdit } = useWorkspace("units", "canEdit");
  const now = expectedFlow(s);
  const was =
    (r.before as { learned?: Station["learned"] } | null)?.learned ?? (r.takenAt === null ? s.learned : undefined);
  const seen = r.verdict !== "noFlow";
  const off = offBy(r, s, was);
  return (
    <tr aria-selected={selected} className="cursor-pointer" onClick={onSelect}>
      <td>
        {r.takenAt && "taken"}
        {!r.takenAt && r.verdict !== "accepted" && "–"}
        {!r.takenAt && r.verdict === "accepted" && (
          <Checkbox
            aria-label={`Take station ${s.number}`}
            checked={on}
            disabled={!canEdit}
            onClick={(e) => e.stopPropagation()}
            onChange={(e) => onToggle(e.target.checked)}
          />
        )}
      </td>
      <td>
        <Button rank="bare" className="text-left underline-offset-2 hover:underline" onClick={onSelect}>
          {s.number} {s.name}
        </Button>
      </td>
      <td className={r.verdict === "accepted" ? "" : "text-error font-semibold"}>
        {VERDICT[r.verdict]}
        {r.companionIds.length > 0 ? ", by difference" : ""}
      </td>
      <td className="text-right font-semibold">
        {odd && (
          <span className="text-warning" title="odd">
            <Mark tone="caution" />{" "}
          </span>
        )}
        {seen || r.meanLpm > 0 ? showQuantity(r.meanLpm, "flow", units, 1) : "–"}
      </td>
      <td className="text-right">{seen ? `${showNumber((100 * r.sdLpm) / Math.max(1e-9, r.meanLpm), 1)} %` : "–"}</td>
      <td className="text-right">{was ? showQuantity(was.meanLpm, "flow", units, 1) : "–"}</td>
      <td className="text-right">
        {s.enteredFlowLpm === undefined ? "–" : showQuantity(s.enteredFlowLpm, "flow", units, 1)}
      </td>
      <td className="text-right">
        {s.designFlowLpm === undefined ? "–" : showQuantity(s.designFlowLpm, "flow", units, 1)}
      </td>
      <td className={`text-right ${off !== null && Math.abs(off) > 0.15 ? "text-warning font-semibold" : ""}`}>
        {off === null ? "" : signed(off)}
      </td>
      <td>{standsBy(now)}</td>
    </tr>
  );
}
