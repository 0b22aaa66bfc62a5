"use client";
import { Plus, X } from "lucide-react";
import { useMemo } from "react";
import { useWorkspace } from "@/components/draft/site-draft";
import { Button, IconButton } from "@/components/kit/button";
import { ChoiceField, NumberField, TextField } from "@/components/kit/fields";
import { FAULT_KINDS, type FaultKind, faultSpec, faultWords, needsOther } from "@/core/bench/faults/kinds";
import { type FaultRequest, faultSubjects } from "@/core/bench/faults/resolve";
import { faultTime } from "@/core/limits/verdict";
import { programStarts } from "@/core/dispatch/queue";
import { waterworks } from "@/core/network/waterworks";
import { type Patch, patched } from "@/core/site-file/patch";
import { shownFaultTime } from "./drop-fault";

/** The first start of a night, from which faults count; null where none is. */
export function useFirstStart(date: string): number | null {
  const { draft } = useWorkspace("draft");
  return useMemo(() => programStarts(waterworks(draft), date)[0]?.at ?? null, [draft, date]);
}

/** Faults on the bench, each with its start, size and end; any time of day is understood. */
export function FaultList({
  faults,
  onChange,
  calm,
  date,
  from = "+900",
}: {
  faults: FaultRequest[];
  onChange: (faults: FaultRequest[]) => void;
  /** What no fault means here. */
  calm: string;
  /** The night that their times belong to. */
  date: string;
  /** When a new one starts. */
  from?: string;
}) {
  const { draft } = useWorkspace("draft");
  const add = (): void => {
    const subject = faultSubjects(draft, "brokenLateral")[0];
    if (subject) onChange([...faults, { kind: "brokenLateral", subjectId: subject.id, at: from }]);
  };
  return (
    <fieldset aria-label="Faults">
      {faults.map((f, i) => (
        <FaultRow
          // biome-ignore lint/suspicious/noArrayIndexKey: a fault is its place in the list
          key={`${i}-${faults.length}`}
          fault={f}
          date={date}
          onChange={(values) => onChange(faults.map((x, n) => (n === i ? patched(x, values) : x)))}
          onRemove={() => onChange(faults.filter((_, n) => n !== i))}
        />
      ))}
      <Button icon={Plus} onClick={add} disabled={draft.stations.length === 0}>
        fault
      </Button>
      {faults.length === 0 && <span className="ml-3 text-faint">{calm}</span>}
    </fieldset>
  );
}

function FaultRow({
  fault: f,
  date,
  onChange,
  onRemove,
}: {
  fault: FaultRequest;
  date: string;
  onChange: (values: Patch<FaultRequest>) => void;
  onRemove: () => void;
}) {
  const { draft, units } = useWorkspace("draft", "units");
  const first = useFirstStart(date);
  const zone = draft.site.timeZone;
  const { size } = faultSpec(f.kind);
  const subjects = faultSubjects(draft, f.kind);
  const shown = (at: string): string => (first === null ? at : shownFaultTime(at, zone, first));
  const read = (text: string): string => (first === null ? null : faultTime(text, zone, date, first)) ?? text.trim();
  const turn = (kind: FaultKind): void =>
    onChange({
      kind,
      subjectId: faultSubjects(draft, kind)[0]?.id ?? "",
      size: undefined,
      otherId: needsOther(kind) ? draft.stations[1]?.id : undefined,
    });
  return (
    <div className="flex flex-wrap items-end gap-2 py-1">
      <ChoiceField
        label="Fault"
        className="w-48"
        value={f.kind}
        options={FAULT_KINDS.filter((k) => faultSubjects(draft, k).length > 0).map((k) => [k, faultWords(k)] as const)}
        onCommit={turn}
      />
      <ChoiceField
        label="on"
        className="w-56"
        value={f.subjectId}
        options={subjects.map((s) => [s.id, s.label] as const)}
        onCommit={(subjectId) => onChange({ subjectId })}
      />
      {f.otherId !== undefined && (
        <ChoiceField
          label="the valve of"
          className="w-56"
          value={f.otherId}
          options={subjects.filter((s) => s.id !== f.subjectId).map((s) => [s.id, s.label] as const)}
          onCommit={(otherId) => onChange({ otherId })}
        />
      )}
      <TextField label="from" className="w-28" value={shown(f.at)} onCommit={(t) => onChange({ at: read(t) })} />
      <TextField
        label="until"
        className="w-28"
        placeholder="lasts"
        value={f.until === undefined ? "" : shown(f.until)}
        onCommit={(t) => onChange({ until: t.trim() === "" ? undefined : read(t) })}
      />
      {size && (
        <NumberField
          label={size.label}
          className="w-32"
          {...(size.quantity ? { quantity: size.quantity, system: units } : { unit: size.unit })}
          value={f.size}
          min={0}
          max={size.max}
          placeholder="usual"
          onCommit={(v) => onChange({ size: v })}
        />
      )}
      <IconButton label="Remove" icon={X} onClick={onRemove} />
    </div>
  );
}
