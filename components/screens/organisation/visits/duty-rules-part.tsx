"use client";
import { useId } from "react";
import { Controller, useFormContext } from "react-hook-form";
import { Labelled, NumberField, TickField } from "@/components/kit/fields";
import { Input } from "@/components/kit/inputs";
import { Table } from "@/components/kit/table";
import type { VisitSetup } from "@/contracts/visits";
import { DUTIES, DUTY_KINDS, type Duty } from "@/core/visits/duties";

/** What has to be done anew at every site, and how often. */
export function DutyRulesPart() {
  return (
    <>
      <p className="mb-2 max-w-prose text-faint">
        Counted from when it was done last; until somebody notes it, from when the site came here. What is overdue is a
        reason on Rounds. The local rule may ask for a backflow test oftener than once a year.
      </p>
      <Table aria-label="Due anew" className="max-w-xl">
        <thead>
          <tr>
            <th>What</th>
            <th>Asked for</th>
            <th>When</th>
          </tr>
        </thead>
        <tbody>
          {DUTIES.map((d) => (
            <RuleRow key={d} duty={d} />
          ))}
        </tbody>
      </Table>
    </>
  );
}

function RuleRow({ duty }: { duty: Duty }) {
  const { control, watch } = useFormContext<VisitSetup>();
  const words = DUTY_KINDS[duty].words;
  const asked = watch(`duties.${duty}.asked`);
  return (
    <tr>
      <td>{words}</td>
      <td>
        <Controller
          control={control}
          name={`duties.${duty}.asked`}
          render={({ field }) => (
            <TickField
              label={<span className="sr-only">{words} is asked for</span>}
              checked={field.value}
              onCommit={field.onChange}
            />
          )}
        />
      </td>
      <td className="w-64">
        {duty === "spring" || duty === "winter" ? (
          <YearDay duty={duty} words={words} asked={asked} />
        ) : (
          <Months duty={duty} words={words} asked={asked} />
        )}
      </td>
    </tr>
  );
}

function Months({ duty, words, asked }: { duty: Exclude<Duty, "spring" | "winter">; words: string; asked: boolean }) {
  const { control } = useFormContext<VisitSetup>();
  return (
    <Controller
      control={control}
      name={`duties.${duty}.months`}
      render={({ field }) => (
        <span className="flex items-center gap-2">
          every
          <NumberField
            label={`Months between: ${words}`}
            hideLabel
            className="w-20"
            whole
            required
            min={1}
            max={120}
            disabled={!asked}
            value={field.value}
            onCommit={(v) => v !== undefined && field.onChange(v)}
          />
          months
        </span>
      )}
    />
  );
}

function YearDay({ duty, words, asked }: { duty: "spring" | "winter"; words: string; asked: boolean }) {
  const id = useId();
  const { register, formState } = useFormContext<VisitSetup>();
  const wrong = formState.errors.duties?.[duty]?.onDay?.message;
  return (
    <span className="flex items-center gap-2">
      by
      <Labelled id={id} label={`Month and day: ${words}`} hideLabel error={wrong ? `This ${wrong}.` : null}>
        <Input
          id={id}
          className="w-24"
          placeholder="10-31"
          disabled={!asked}
          aria-invalid={wrong !== undefined}
          {...register(`duties.${duty}.onDay`)}
        />
      </Labelled>
      <span className="text-faint">month-day, each year</span>
    </span>
  );
}
