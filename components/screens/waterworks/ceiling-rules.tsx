"use client";
import { useWorkspace } from "@/components/draft/site-draft";
import { Button } from "@/components/kit/button";
import { PinchIcon } from "@/components/kit/icons";
import { Table } from "@/components/kit/table";
import { DEVICE_WORDS, RULE_WORDS } from "@/components/words/rule-words";
import { type ElementCeiling, staticPressureKpa } from "@/core/ceilings/ceilings";
import { ruleData } from "@/core/ceilings/rule-data";
import { devicesOf } from "@/core/site-file/records";
import type { Device } from "@/core/site-file/schema";
import { showQuantity } from "@/core/units/units";

/** Every rule that limits an element, with its data; the one that binds is marked. */
export function Rules({ ceiling, onSelect }: { ceiling: ElementCeiling; onSelect: (id: string) => void }) {
  const { draft, units } = useWorkspace("draft", "units");
  const poc = draft.pocs.find((p) => p.id === ceiling.id);
  const staticKpa = poc ? staticPressureKpa(draft, poc) : null;
  const reason = (poc ?? draft.mainlines.find((m) => m.id === ceiling.id))?.ceilingReason;
  const device = (id: string | undefined): Device | undefined => devicesOf(draft).find((d) => d.id === id);
  return (
    <Table className="my-2">
      <thead>
        <tr>
          <th>Rule</th>
          <th>Piece</th>
          <th className="text-right">Figure</th>
        </tr>
      </thead>
      <tbody>
        {ceiling.rules.map((r) => {
          const binds = ceiling.boundBy?.rule === r.rule && ceiling.boundBy.deviceId === r.deviceId;
          const d = device(r.deviceId);
          return (
            <tr key={`${r.rule}${r.deviceId}`} className={binds ? "font-semibold" : ""}>
              <td>
                {binds ? (
                  <span className="text-warning">
                    <PinchIcon className="inline size-4 align-[-0.2em]" aria-hidden /> binds:{" "}
                  </span>
                ) : null}
                {RULE_WORDS[r.rule]}
                <span className="block text-sm font-normal text-faint">
                  {r.rule === "entered" ? (reason ?? "") : ruleData(r.rule, d, staticKpa, units)}
                </span>
              </td>
              <td>
                {d ? (
                  <Button
                    rank="bare"
                    className="underline underline-offset-2 cursor-pointer text-left"
                    onClick={() => onSelect(d.id)}
                  >
                    {d.name ?? (d.kind === "pipe" ? `${d.material} ${d.nominal}` : DEVICE_WORDS[d.kind])}
                  </Button>
                ) : (
                  "–"
                )}
              </td>
              <td className="whitespace-nowrap text-right">{showQuantity(r.lpm, "flow", units)}</td>
            </tr>
          );
        })}
      </tbody>
    </Table>
  );
}
