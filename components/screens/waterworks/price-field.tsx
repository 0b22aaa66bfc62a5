"use client";
import { Plus, Trash2 } from "lucide-react";
import { useWorkspace } from "@/components/draft/site-draft";
import { Button, IconButton } from "@/components/kit/button";
import { NumberField, TextField } from "@/components/kit/fields";
import { currency as currencySchema } from "@/core/site-file/basics-schema";
import type { Price } from "@/core/season/water-cost";
import { toShown, unitLabel } from "@/core/units/units";

const USUAL_CURRENCY = { us: "USD", metric: "EUR" } as const;
type Step = NonNullable<Price["steps"]>[number];

/** What a month's water of a source costs, by steps if wanted. The currency is the site's. */
export function PriceField({
  price,
  onCommit,
}: {
  price: Price | undefined;
  onCommit: (price: Price | undefined, currency: string) => void;
}) {
  const { draft, units, canEdit } = useWorkspace("draft", "units", "canEdit");
  const currency = draft.site.currency ?? USUAL_CURRENCY[units];
  const perUnit = toShown(1, "bulk", units);
  const unit = `${currency} per ${unitLabel("bulk", units)}`;
  const each = (perM3: number): number => Number((perM3 / perUnit).toFixed(6));
  const put = (next: Price | undefined): void => onCommit(next, currency);
  const steps = price?.steps ?? [];
  const putSteps = (next: Step[]): void => {
    if (!price) return;
    const { steps: _, ...first } = price;
    put(next.length > 0 ? { ...first, steps: [...next].sort((a, b) => a.overM3 - b.overM3) } : first);
  };
  return (
    <fieldset className="col-span-2 grid grid-cols-2 gap-x-3 gap-y-2">
      <legend className="mb-1 text-sm text-faint">Price of its water, by the month</legend>
      <NumberField
        label="Price"
        unit={unit}
        value={price && each(price.perM3)}
        min={0}
        max={1e6}
        disabled={!canEdit}
        onCommit={(v) => put(v === undefined ? undefined : { ...price, perM3: v * perUnit })}
      />
      {price && (
        <TextField
          label="Currency of the site"
          value={currency}
          disabled={!canEdit}
          onCommit={(typed) => {
            const code = typed.trim().toUpperCase();
            if (currencySchema.safeParse(code).success) onCommit(price, code);
          }}
        />
      )}
      {steps.map((step, i) => (
        // biome-ignore lint/suspicious/noArrayIndexKey: a step is known by its place
        <div key={i} className="col-span-2 grid grid-cols-[1fr_1fr_auto] items-end gap-x-3">
          <NumberField
            label="What is over"
            quantity="bulk"
            system={units}
            value={step.overM3}
            min={0.001}
            max={1e9}
            required
            disabled={!canEdit}
            onCommit={(v) => v !== undefined && putSteps(steps.map((s, j) => (j === i ? { ...s, overM3: v } : s)))}
          />
          <NumberField
            label="costs"
            unit={unit}
            value={each(step.perM3)}
            min={0}
            max={1e6}
            required
            disabled={!canEdit}
            onCommit={(v) =>
              v !== undefined && putSteps(steps.map((s, j) => (j === i ? { ...s, perM3: v * perUnit } : s)))
            }
          />
          {canEdit && (
            <IconButton
              label={`Take step ${i + 1} out`}
              icon={Trash2}
              onClick={() => putSteps(steps.filter((_, j) => j !== i))}
            />
          )}
        </div>
      ))}
      {price && canEdit && (
        <Button
          rank="quiet"
          icon={Plus}
          className="col-span-2 justify-self-start"
          onClick={() => {
            const last = steps.at(-1);
            putSteps([...steps, { overM3: last ? last.overM3 * 2 : 100, perM3: last?.perM3 ?? price.perM3 }]);
          }}
        >
          Step
        </Button>
      )}
    </fieldset>
  );
}
