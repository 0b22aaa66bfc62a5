"use client";
import { Plus } from "lucide-react";
import { Button } from "@/components/kit/button";
import { patched, type Patch } from "@/core/site-file/patch";
import { ChoiceField, NumberField, TextField } from "@/components/kit/fields";
import { useWorkspace } from "@/components/draft/site-draft";
import { faultWords, faultSpec, needsOther } from "@/core/bench/faults/kinds";
import { FAULT_KINDS } from "@/core/bench/faults/kinds";
import { type FaultRequest, faultSubjects } from "@/core/bench/faults/resolve";

/** Faults to drop onto the bench, each with its start, size and end. */
export function FaultList({
  faults,
  onChange,
  calm,
  from = "+900",
}: {
  faults: FaultRequest[];
  onChange: (faults: FaultRequest[]) => void /** What no fault means here. */;
  calm: string /** When a new one starts. */;
  from?: string;
}) {
  const { draft, units } = useWorkspace("draft", "units");
  const change = (i: number, values: Patch<FaultRequest>): void =>
    onChange(faults.map((f, n) => (n === i ? patched(f, values) : f)));
  const add = (): void => {
    const subject = faultSubjects(draft, "brokenLateral")[0];
    if (subject) onChange([...faults, { kind: "brokenLateral", subjectId: subject.id, at: from }]);
  };
  return (
    <fieldset className="border-b border-base-300 pb-2" aria-label="Faults">
      {faults.map((f, i) => {
        const { size } = faultSpec(f.kind);
        const subjects = faultSubjects(draft, f.kind);
        return (
          <div key={`${i}-${faults.length}`} className="flex flex-wrap items-end gap-3 py-1">
            <div className="w-52">
              <ChoiceField
                label="Fault"
                value={f.kind}
                options={FAULT_KINDS.filter((k) => faultSubjects(draft, k).length > 0).map(
                  (k) => [k, faultWords(k)] as const,
                )}
                onCommit={(kind) =>
                  change(i, {
                    kind,
                    subjectId: faultSubjects(draft, kind)[0]?.id ?? "",
                    size: undefined,
                    otherId: needsOther(kind) ? draft.stations[1]?.id : undefined,
                  })
                }
              />
            </div>
            <div className="w-64">
              <ChoiceField
                label="on"
                value={f.subjectId}
                options={subjects.map((s) => [s.id, s.label] as const)}
                onCommit={(subjectId) => change(i, { subjectId })}
              />
            </div>
            {f.otherId !== undefined && (
              <div className="w-64">
                <ChoiceField
                  label="the valve of"
                  value={f.otherId}
                  options={subjects.filter((s) => s.id !== f.subjectId).map((s) => [s.id, s.label] as const)}
                  onCommit={(otherId) => change(i, { otherId })}
                />
              </div>
            )}
            <div className="w-40">
              <TextField label="from, +s or HH:MM:SS" value={f.at} onCommit={(at) => change(i, { at: at.trim() })} />
            </div>
            <div className="w-32">
              <TextField
                label="until (empty: lasts)"
                value={f.until ?? ""}
                onCommit={(until) => change(i, { until: until.trim() || undefined })}
              />
            </div>
            {size && (
              <div className="w-32">
                <NumberField
                  label={size.label}
                  {...(size.quantity ? { quantity: size.quantity, system: units } : { unit: size.unit })}
                  value={f.size}
                  min={0}
                  max={size.max}
                  placeholder="usual"
                  onCommit={(v) => change(i, { size: v })}
                />
              </div>
            )}
            <Button onClick={() => onChange(faults.filter((_, n) => n !== i))}>Remove</Button>
          </div>
        );
      })}
      <Button icon={Plus} className="mt-1" onClick={add} disabled={draft.stations.length === 0}>
        fault
      </Button>
      {faults.length === 0 && <span className="text-faint ml-3">{calm}</span>}
    </fieldset>
  );
}
