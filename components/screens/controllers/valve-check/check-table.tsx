"use client";
import { toast } from "sonner";
import { useTodos } from "@/components/data/use-visits";
import { useWorkspace } from "@/components/draft/site-draft";
import { Button } from "@/components/kit/button";
import { Mark, Problem } from "@/components/kit/notice";
import { Scroller } from "@/components/kit/scroller";
import { Table, ToolsHead } from "@/components/kit/table";
import { showNumber } from "@/core/units/units";
import { type CheckLine, type CheckUnit, VALVE_WORDS, type ValveMeaning } from "@/core/wiring/valve-check";

/** An open circuit has no figure that says more than that. */
const OPEN_OHM = 100_000;
const figure = (value: number | null, unit: CheckUnit): string => {
  if (value === null) return "–";
  if (unit === "ohm") return value >= OPEN_OHM ? "open" : `${showNumber(value, value < 100 ? 1 : 0)} Ω`;
  return `${showNumber(value, 0)} mA`;
};

/** What each valve drew or resisted, what that means and what to look at next. */
export function CheckTable({ lines, unit }: { lines: readonly CheckLine[]; unit: CheckUnit }) {
  const { siteId, canEdit } = useWorkspace("siteId", "canEdit");
  const { make } = useTodos(siteId);
  const bad = lines.filter((l) => l.meaning !== null && l.meaning !== "good");
  const missing = lines.filter((l) => l.value === null).length;
  const note = (l: CheckLine): void => {
    const said = `${VALVE_WORDS[l.meaning ?? "good"].words}, ${figure(l.value, unit)}`;
    const words = `Station ${l.station.number} ${l.station.name}: ${said} by wire`;
    make.mutate(
      { id: crypto.randomUUID(), words, subjectId: l.station.id, ownerId: null, due: null, photoIds: [] },
      { onSuccess: () => toast("Noted as something to do") },
    );
  };
  return (
    <>
      <p role="status">
        {bad.length === 0
          ? "Every valve that was measured is good."
          : `${bad.length} of ${lines.length - missing} not good.`}
        {missing > 0 && ` ${missing} not measured.`} {lines.filter((l) => l.changed).length} changed since last time.
      </p>
      {make.error && <Problem>{make.error.message}</Problem>}
      <Scroller>
        <Table aria-label="Valves by wire">
          <thead>
            <tr>
              <th>Station</th>
              <th className="text-right">Now</th>
              <th>Means</th>
              <th className="text-right">Last time</th>
              <th>Since then</th>
              <th>Look at next</th>
              {canEdit && <ToolsHead />}
            </tr>
          </thead>
          <tbody>
            {lines.map((l) => (
              <tr key={l.station.id} className="align-top">
                <td>
                  {l.station.number} {l.station.name}
                </td>
                <td className="text-right tabular-nums">{figure(l.value, unit)}</td>
                <td className="whitespace-nowrap">
                  <Meaning of={l.meaning} />
                </td>
                <td className="whitespace-nowrap text-right tabular-nums text-faint">{figure(l.before, unit)}</td>
                <td className="whitespace-nowrap font-semibold">{changeWords(l)}</td>
                <td className="max-w-md text-sm">{l.meaning && VALVE_WORDS[l.meaning].next}</td>
                {canEdit && (
                  <td className="text-right">
                    {l.meaning !== null && l.meaning !== "good" && (
                      <Button
                        rank="quiet"
                        aria-label={`Station ${l.station.number}: note it as something to do`}
                        disabled={make.isPending}
                        onClick={() => note(l)}
                      >
                        To do
                      </Button>
                    )}
                  </td>
                )}
              </tr>
            ))}
          </tbody>
        </Table>
      </Scroller>
    </>
  );
}

function changeWords({ changed, meaning, meaningBefore }: CheckLine): string {
  if (!changed) return "";
  return meaningBefore === null || meaningBefore === meaning
    ? "changed"
    : `changed, was ${VALVE_WORDS[meaningBefore].words}`;
}

function Meaning({ of }: { of: ValveMeaning | null }) {
  if (of === null) return <span className="text-faint">not measured</span>;
  const { words } = VALVE_WORDS[of];
  if (of === "good") return words;
  return <Mark tone={of === "high" || of === "over" ? "caution" : "alarm"}>{words}</Mark>;
}
