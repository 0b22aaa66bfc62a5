"use client";
import { ArrowDown, ArrowUp, Plus, Trash2 } from "lucide-react";
import { useId } from "react";
import { useFieldArray, useFormContext } from "react-hook-form";
import { Button, IconButton } from "@/components/kit/button";
import { Labelled } from "@/components/kit/fields";
import { Input, Select } from "@/components/kit/inputs";
import type { VisitSetup } from "@/contracts/visits";
import { DUTIES, DUTY_KINDS } from "@/core/visits/duties";

const NOTED = DUTIES.filter((d) => DUTY_KINDS[d].noted);

/** One kind of visit: its name and its lines, in the order in which they are gone through. */
export function ChecklistPart({ at, onTakeOut }: { at: number; onTakeOut: (() => void) | null }) {
  const id = useId();
  const { control, register, formState } = useFormContext<VisitSetup>();
  const lines = useFieldArray({ control, name: `checklists.${at}.lines`, keyName: "key" });
  const wrong = formState.errors.checklists?.[at];
  return (
    <div className="max-w-3xl">
      <div className="flex flex-wrap items-end gap-3">
        <Labelled id={id} label="Kind of visit" error={wrong?.name?.message ?? null} className="grow basis-64">
          <Input id={id} aria-invalid={wrong?.name !== undefined} {...register(`checklists.${at}.name`)} />
        </Labelled>
        {onTakeOut && (
          <Button rank="quiet" icon={Trash2} onClick={onTakeOut}>
            Take this kind out
          </Button>
        )}
      </div>
      <ol aria-label="Lines" className="mt-3">
        {lines.fields.map((f, i) => (
          <li
            key={f.key}
            className="grid grid-cols-[1fr_auto] items-center gap-x-2 gap-y-1 border-b border-base-300 py-1 sm:grid-cols-[1fr_13rem_auto]"
          >
            <Labelled
              id={`${id}-w${f.key}`}
              label={`Line ${i + 1}`}
              hideLabel
              error={wrong?.lines?.[i]?.words?.message ?? null}
            >
              <Input
                id={`${id}-w${f.key}`}
                aria-invalid={wrong?.lines?.[i]?.words !== undefined}
                {...register(`checklists.${at}.lines.${i}.words`)}
              />
            </Labelled>
            <Labelled
              id={`${id}-d${f.key}`}
              label={`What line ${i + 1} does anew`}
              hideLabel
              className="max-sm:col-start-1"
            >
              <Select
                id={`${id}-d${f.key}`}
                {...register(`checklists.${at}.lines.${i}.duty`, { setValueAs: (v: string | null) => v || null })}
              >
                <option value="">only looked at</option>
                {NOTED.map((d) => (
                  <option key={d} value={d}>
                    may do anew: {DUTY_KINDS[d].words}
                  </option>
                ))}
              </Select>
            </Labelled>
            <span className="flex max-sm:col-start-2 max-sm:row-start-1">
              <IconButton
                label={`Line ${i + 1} up`}
                icon={ArrowUp}
                disabled={i === 0}
                onClick={() => lines.move(i, i - 1)}
              />
              <IconButton
                label={`Line ${i + 1} down`}
                icon={ArrowDown}
                disabled={i === lines.fields.length - 1}
                onClick={() => lines.move(i, i + 1)}
              />
              <IconButton
                label={`Take line ${i + 1} out`}
                icon={Trash2}
                disabled={lines.fields.length === 1}
                onClick={() => lines.remove(i)}
              />
            </span>
          </li>
        ))}
      </ol>
      <Button
        rank="quiet"
        icon={Plus}
        className="mt-1"
        onClick={() => lines.append({ id: crypto.randomUUID(), words: "", duty: null })}
      >
        Another line
      </Button>
    </div>
  );
}
