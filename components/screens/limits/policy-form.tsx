"use client";
import { RESPONSES } from "@/components/words/response-words";
import { Plus, X } from "lucide-react";
import { useWorkspace } from "@/components/draft/site-draft";
import { Button, IconButton } from "@/components/kit/button";
import { ChoiceField, NumberField, TickField } from "@/components/kit/fields";
import { InspectorPart } from "@/components/kit/inspector";
import { SCHOOLS } from "@/core/limits/schools";
import { clean, type Patch, patched } from "@/core/site-file/patch";
import type { Policy } from "@/core/site-file/schema";

/** The site's limits: where to start from, how far, how long, and what then happens. */
export function PolicyForm() {
  const { draft, edit, canEdit } = useWorkspace("draft", "edit", "canEdit");
  const { policy } = draft;
  const put = (values: Patch<Policy>): void =>
    edit((f) => ({ ...f, policy: patched(f.policy, { preset: undefined, ...values }) }));
  const number = (
    label: string,
    key: "highPercent" | "lowPercent" | "persistenceS" | "retestWaitS" | "closeWaitS" | "autoReturnMin",
    rest: { unit: string; min: number; max: number; whole?: boolean; required?: boolean; placeholder?: string },
  ) => (
    <NumberField
      label={label}
      value={policy[key] ?? undefined}
      disabled={!canEdit}
      onCommit={(v) => put({ [key]: v })}
      {...rest}
    />
  );
  return (
    <>
      <InspectorPart title="Limits of the site">
        <div className="grid grid-cols-2 gap-2">
          <ChoiceField
            label="School to start from"
            className="col-span-2"
            value={policy.preset ?? "own"}
            disabled={!canEdit}
            options={[...SCHOOLS.map((s) => [s.id, s.name] as const), ["own", "own figures"] as const]}
            hint={SCHOOLS.find((s) => s.id === policy.preset)?.suits}
            onCommit={(id) => {
              const school = SCHOOLS.find((s) => s.id === id);
              if (school)
                edit((f) => ({ ...f, policy: clean({ ...f.policy, bands: undefined, ...school.policy, preset: id }) }));
              else put({});
            }}
          />
          {number("High", "highPercent", { unit: "% above", min: 1, max: 1000, required: true })}
          {number("Low", "lowPercent", { unit: "% below", min: 1, max: 100, required: true })}
          <ChoiceField
            label="Counted"
            className="col-span-2"
            value={policy.basis}
            disabled={!canEdit}
            options={[
              ["station", "by station: each its own percentage"],
              ["graded", "graded: by the total that is expected"],
            ]}
            onCommit={(basis) => put({ basis })}
          />
        </div>
        {policy.basis === "graded" && <Bands />}
      </InspectorPart>
      <InspectorPart title="For how long">
        <div className="grid grid-cols-[6.5rem_minmax(0,1fr)] gap-2">
          {number("Persistence", "persistenceS", { unit: "s", min: 0, max: 86_400, whole: true, required: true })}
          <ChoiceField
            label="Persistence is"
            value={policy.judge ?? "unbroken"}
            disabled={!canEdit}
            options={[
              ["unbroken", "every reading beyond"],
              ["share", "80 % of them beyond"],
              ["mean", "their 10 s mean beyond"],
            ]}
            onCommit={(v) => put({ judge: v === "unbroken" ? undefined : v })}
          />
        </div>
      </InspectorPart>
      <InspectorPart title="What then happens">
        <div className="grid grid-cols-2 gap-2">
          <ChoiceField
            label="When high"
            value={policy.highResponse}
            disabled={!canEdit}
            options={RESPONSES}
            onCommit={(highResponse) => put({ highResponse })}
          />
          <ChoiceField
            label="When low"
            value={policy.lowResponse}
            disabled={!canEdit}
            options={RESPONSES}
            onCommit={(lowResponse) => put({ lowResponse })}
          />
          {number("Wait with all shut", "closeWaitS", { unit: "s", min: 0, max: 3600, whole: true, placeholder: "30" })}
          {number("Returns after", "autoReturnMin", { unit: "min", min: 1, max: 100_000, placeholder: "never" })}
          <div className="self-end">
            <TickField
              label="retest once"
              checked={policy.retest === true}
              disabled={!canEdit}
              onCommit={(v) => put({ retest: v ? true : undefined })}
            />
          </div>
          {policy.retest &&
            number("Wait before retest", "retestWaitS", {
              unit: "s",
              min: 0,
              max: 86_400,
              whole: true,
              placeholder: "60",
            })}
        </div>
      </InspectorPart>
    </>
  );
}

/** The larger the flow that is expected, the smaller the percentage: one row a band. */
function Bands() {
  const { draft, edit, canEdit, units } = useWorkspace("draft", "edit", "canEdit", "units");
  const bands = draft.policy.bands ?? [];
  const put = (next: NonNullable<Policy["bands"]>): void =>
    edit((f) => ({
      ...f,
      policy: clean<Policy>({
        ...f.policy,
        preset: undefined,
        bands: next.length > 0 ? [...next].sort((a, b) => a.fromLpm - b.fromLpm) : undefined,
      }),
    }));
  return (
    <fieldset className="mt-2" aria-label="Bands">
      {bands.map((b, i) => (
        // biome-ignore lint/suspicious/noArrayIndexKey: a band is its place in the list
        <div key={i} className="grid grid-cols-[1fr_1fr_auto] items-end gap-2">
          <NumberField
            label="From"
            quantity="flow"
            system={units}
            value={b.fromLpm}
            min={0}
            max={1_000_000}
            required
            disabled={!canEdit}
            onCommit={(v) => put(bands.map((x, n) => (n === i ? { ...x, fromLpm: v ?? x.fromLpm } : x)))}
          />
          <NumberField
            label="Allowed"
            unit="%"
            value={b.percent}
            min={1}
            max={1000}
            required
            disabled={!canEdit}
            onCommit={(v) => put(bands.map((x, n) => (n === i ? { ...x, percent: v ?? x.percent } : x)))}
          />
          <IconButton
            label={`Remove band ${i + 1}`}
            icon={X}
            disabled={!canEdit}
            onClick={() => put(bands.filter((_, n) => n !== i))}
          />
        </div>
      ))}
      <Button
        className="mt-2"
        icon={Plus}
        disabled={!canEdit}
        onClick={() =>
          put([...bands, { fromLpm: (bands.at(-1)?.fromLpm ?? 0) + 100, percent: bands.at(-1)?.percent ?? 20 }])
        }
      >
        Band
      </Button>
      <p className="mt-1 text-xs text-faint">
        Below the first band the plain percentages hold; overrides of stations do not apply.
      </p>
    </fieldset>
  );
}
