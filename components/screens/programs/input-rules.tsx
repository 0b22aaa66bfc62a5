"use client";
import { patchProgram } from "@/components/draft/patch-element";
import { X, Plus } from "lucide-react";
import { Button } from "@/components/kit/button";
import { patched, type Patch } from "@/core/site-file/patch";
import { ChoiceField, NumberField } from "@/components/kit/fields";
import { useWorkspace } from "@/components/draft/site-draft";
import { inputSignals } from "@/core/calendar/input-signal";
import { localClock, localDate } from "@/core/dates/wall-time";
import type { Program } from "@/core/site-file/schema";
import { inputFromShown, inputToShown, inputUnit } from "@/core/calendar/input-units";

type Rule = NonNullable<Program["onInputs"]>[number];
const USUAL: Record<string, Pick<Rule, "does" | "when" | "limit">> = {
  rain: { does: "pause", when: "above", limit: 3 },
  wind: { does: "pause", when: "above", limit: 6 },
  freeze: { does: "pause", when: "below", limit: 3 },
  moisture: { does: "start", when: "below", limit: 20 },
  temperature: { does: "pause", when: "below", limit: 5 },
  switch: { does: "start", when: "above", limit: 0.5 },
};

/** What starts or pauses this program within the night, and what that is by the simulated readings. */
export function InputRules({ program }: { program: Program }) {
  const { draft, edit, canEdit, units, date } = useWorkspace("draft", "edit", "canEdit", "units", "date");
  const inputs = draft.weatherInputs ?? [];
  const rules = program.onInputs ?? [];
  const put = (onInputs: Rule[]): void =>
    edit(patchProgram(program.id, { onInputs: onInputs.length > 0 ? onInputs : undefined }));
  const patch = (i: number, values: Patch<Rule>): void => put(rules.map((r, n) => (n === i ? patched(r, values) : r)));
  const zone = draft.site.timeZone;
  const said = (rule: Rule): string => {
    if (inputs.find((w) => w.id === rule.inputId)?.bypassed) return "bypassed: does nothing";
    const spans =
      inputSignals(draft, { ...program, onInputs: [rule] })[0]?.intervals.filter(
        (i) => localDate(zone, i.to) >= date && localDate(zone, i.from) <= date,
      ) ?? [];
    return spans.length === 0
      ? `no reading does so on ${date}`
      : spans.map((i) => `${localClock(zone, i.from)} to ${localClock(zone, i.to)}`).join(", ");
  };
  return (
    <fieldset>
      <legend className="text-sm text-faint">Started or paused by an input</legend>
      {inputs.length === 0 && (
        <p className="text-faint text-sm">
          No input: add a moisture sensor, a thermometer or a switch under Whole site.
        </p>
      )}
      {rules.map((rule, i) => {
        const input = inputs.find((w) => w.id === rule.inputId);
        const unit = inputUnit(input?.kind ?? "moisture", units);
        return (
          // biome-ignore lint/suspicious/noArrayIndexKey: each is its place in the list
          <div key={`${i}-${rules.length}`} className="flex flex-wrap items-end gap-2 border-b border-base-300 py-1">
            <div className="w-24">
              <ChoiceField
                label="The input"
                hideLabel
                value={rule.does}
                disabled={!canEdit}
                options={[
                  ["start", "starts"],
                  ["pause", "pauses"],
                ]}
                onCommit={(does) => patch(i, { does })}
              />
            </div>
            <span className="pb-1">while</span>
            <div className="w-40">
              <ChoiceField
                label="Input"
                hideLabel
                value={rule.inputId}
                disabled={!canEdit}
                options={inputs.map((w) => [w.id, w.name] as const)}
                onCommit={(inputId) => patch(i, { inputId })}
              />
            </div>
            <div className="w-24">
              <ChoiceField
                label="Reads"
                hideLabel
                value={rule.when}
                disabled={!canEdit}
                options={[
                  ["above", "is above"],
                  ["below", "is below"],
                ]}
                onCommit={(when) => patch(i, { when })}
              />
            </div>
            <div className="w-24">
              <NumberField
                label={`Limit of ${input?.name ?? "the input"}`}
                hideLabel
                unit={unit.label}
                required
                value={Number(inputToShown(rule.limit, unit).toPrecision(6))}
                disabled={!canEdit}
                onCommit={(v) => v !== undefined && patch(i, { limit: inputFromShown(v, unit) })}
              />
            </div>
            <span className="pb-1">{unit.label}</span>
            {canEdit && (
              <Button
                rank="quiet"
                aria-label={`Remove the rule on ${input?.name ?? "the input"}`}
                onClick={() => put(rules.filter((_, n) => n !== i))}
              >
                <X className="size-4" aria-hidden />
              </Button>
            )}
            <span className="basis-full text-sm text-faint">
              {said(rule)}
              {rule.does === "start"
                ? "; a start each time it passes the limit on a date that is due"
                : "; what was running goes on where it stopped"}
            </span>
          </div>
        );
      })}
      {canEdit && inputs.length > 0 && (
        <Button
          icon={Plus}
          className="mt-1"
          onClick={() => {
            const w = inputs[0];
            if (w) put([...rules, { inputId: w.id, ...(USUAL[w.kind] as Pick<Rule, "does" | "when" | "limit">) }]);
          }}
        >
          rule
        </Button>
      )}
    </fieldset>
  );
}
