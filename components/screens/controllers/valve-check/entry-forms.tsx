"use client";
import { useId, useState } from "react";
import { useWorkspace } from "@/components/draft/site-draft";
import { Button } from "@/components/kit/button";
import { Labelled, NumberField } from "@/components/kit/fields";
import { TextArea } from "@/components/kit/inputs";
import { Problem } from "@/components/kit/notice";
import { type CheckReading, type CheckUnit, readCheck } from "@/core/wiring/valve-check";

type Props = {
  controllerId: string;
  unit: CheckUnit;
  busy: boolean;
  onKeep: (readings: CheckReading[]) => void;
  onLeave: () => void;
};
const SIGN: Record<CheckUnit, string> = { mA: "mA", ohm: "Ω" };

/** A figure for each station; what is left empty was not measured. */
export function TypeForm({ controllerId, unit, busy, onKeep, onLeave }: Props) {
  const { draft } = useWorkspace("draft");
  const [typed, setTyped] = useState<ReadonlyMap<string, number>>(new Map());
  const mine = draft.stations.filter((s) => s.controllerId === controllerId).sort((a, b) => a.number - b.number);
  const set = (id: string, value: number | undefined): void => {
    const next = new Map(typed);
    if (value === undefined) next.delete(id);
    else next.set(id, value);
    setTyped(next);
  };
  return (
    <section aria-label="Type in a check" className="border-y border-base-300 py-3">
      <div className="grid gap-x-4 gap-y-2 sm:grid-cols-3 lg:grid-cols-5">
        {mine.map((s) => (
          <NumberField
            key={s.id}
            label={`${s.number} ${s.name}`}
            unit={SIGN[unit]}
            min={0}
            max={1_000_000}
            value={typed.get(s.id)}
            onCommit={(v) => set(s.id, v)}
          />
        ))}
      </div>
      <div className="mt-3 flex items-center gap-3">
        <Button
          rank="main"
          disabled={busy || typed.size === 0}
          onClick={() => onKeep([...typed].map(([stationId, value]) => ({ stationId, value })))}
        >
          Keep the check
        </Button>
        <Button rank="quiet" onClick={onLeave}>
          Leave it
        </Button>
        <span className="text-faint">
          {typed.size} of {mine.length} entered
        </span>
      </div>
    </section>
  );
}

/** A list from a meter, a tester or a table: what of it is read is said before it is kept. */
export function PasteForm({ controllerId, unit, busy, onKeep, onLeave }: Props) {
  const id = useId();
  const { draft } = useWorkspace("draft");
  const [text, setText] = useState("");
  const { readings, problems } = readCheck(draft, controllerId, unit, text);
  return (
    <section aria-label="Paste a check" className="grid max-w-2xl gap-2 border-y border-base-300 py-3">
      <Labelled
        id={id}
        label="A line for each station: its number, then the figure"
        hint={`As “12, ${unit === "mA" ? "231" : "38"}” or “12 open”. Figures without a unit are ${SIGN[unit]}.`}
      >
        <TextArea
          id={id}
          rows={8}
          value={text}
          aria-describedby={`${id}-hint`}
          onChange={(e) => setText(e.target.value)}
        />
      </Labelled>
      {problems.length > 0 && (
        <Problem>
          {problems.slice(0, 5).map((p) => (
            <span key={p} className="block">
              {p}
            </span>
          ))}
          {problems.length > 5 && <span className="block">And {problems.length - 5} more.</span>}
        </Problem>
      )}
      <div className="flex items-center gap-3">
        <Button rank="main" disabled={busy || readings.length === 0} onClick={() => onKeep(readings)}>
          Keep {readings.length} reading{readings.length === 1 ? "" : "s"}
        </Button>
        <Button rank="quiet" onClick={onLeave}>
          Leave it
        </Button>
      </div>
    </section>
  );
}
