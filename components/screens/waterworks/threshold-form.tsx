"use client";
import { NumberField } from "@/components/kit/fields";
import { useWorkspace } from "@/components/draft/site-draft";
import { type Thresholds, thresholds, USUAL_THRESHOLDS } from "@/core/wiring/wire-reading";

export const THRESHOLD_WORDS: [keyof Thresholds, string][] = [
  ["shortUnderOhm", "24 V AC: a short under"],
  ["highOverOhm", "24 V AC: high over"],
  ["latchingShortUnderOhm", "Latching: a short under"],
  ["latchingHighOverOhm", "Latching: high over"],
  ["openOverOhm", "Open circuit over"],
  ["runOverOhm", "Wire run: high over"],
];

export function ThresholdForm() {
  const { draft, edit, canEdit } = useWorkspace("draft", "edit", "canEdit");
  const now = thresholds(draft);
  return (
    <details className="mb-3">
      <summary className="cursor-pointer font-semibold">What a resistance means</summary>
      <div className="grid grid-cols-2 gap-2 mt-1">
        {THRESHOLD_WORDS.map(([key, words]) => (
          <NumberField
            key={key}
            label={words}
            unit="Ω"
            value={now[key]}
            min={0}
            max={1_000_000}
            disabled={!canEdit}
            hint={`usual ${USUAL_THRESHOLDS[key]} Ω`}
            onCommit={(v) =>
              edit((f) => ({ ...f, wireThresholds: { ...f.wireThresholds, [key]: v ?? USUAL_THRESHOLDS[key] } }))
            }
          />
        ))}
      </div>
    </details>
  );
}
