"use client";
import { zodResolver } from "@hookform/resolvers/zod";
import { Plus } from "lucide-react";
import { useEffect, useState } from "react";
import { FormProvider, useFieldArray, useForm } from "react-hook-form";
import { useVisitSetup } from "@/components/data/use-visits";
import { Button } from "@/components/kit/button";
import { Problem } from "@/components/kit/notice";
import { Section } from "@/components/kit/section";
import { Segments } from "@/components/kit/segments";
import { visitSetup, type VisitSetup } from "@/contracts/visits";
import { ChecklistPart } from "./checklist-part";
import { DutyRulesPart } from "./duty-rules-part";

/** What is looked at on visits, and what is asked for by the calendar. */
export function VisitsPanel() {
  const { setup, problem, change } = useVisitSetup();
  if (!setup) return problem ? <Problem>{problem}</Problem> : <p role="status">Looking up the checklists…</p>;
  return (
    <Form
      setup={setup}
      busy={change.isPending}
      problem={change.error?.message ?? null}
      onKeep={(values) => change.mutate(values)}
    />
  );
}

function Form({
  setup,
  busy,
  problem,
  onKeep,
}: {
  setup: VisitSetup;
  busy: boolean;
  problem: string | null;
  onKeep: (setup: VisitSetup) => void;
}) {
  const form = useForm({ resolver: zodResolver(visitSetup), defaultValues: setup });
  const { control, handleSubmit, reset, formState } = form;
  useEffect(() => reset(setup), [setup, reset]);
  const lists = useFieldArray({ control, name: "checklists", keyName: "key" });
  const [chosen, setChosen] = useState(0);
  const at = Math.min(chosen, lists.fields.length - 1);
  const names = form.watch("checklists");
  const add = (): void => {
    lists.append({
      id: crypto.randomUUID(),
      name: "New kind of visit",
      lines: [{ id: crypto.randomUUID(), words: "", duty: null }],
    });
    setChosen(lists.fields.length);
  };
  const takeOut = (): void => {
    lists.remove(at);
    setChosen(Math.max(0, at - 1));
  };
  const { errors, isDirty } = formState;
  // Of a list that is not shown too: else nobody finds what is wrong.
  const wrongList = errors.checklists?.findIndex?.((e) => e !== undefined) ?? -1;
  return (
    <FormProvider {...form}>
      <form onSubmit={handleSubmit(onKeep)} noValidate>
        <Section id="checklists" title="Checklists">
          <p className="mb-2 max-w-prose text-faint">
            A visit that is on keeps the lines it began with. What is not in order becomes something to do.
          </p>
          <div className="mb-3 flex flex-wrap items-center gap-2">
            <Segments
              label="Kinds of visit"
              options={lists.fields.map((f, i) => ({
                id: String(i),
                label: names[i]?.name || f.name || "without a name",
              }))}
              at={String(at)}
              onChange={(i) => setChosen(Number(i))}
            />
            <Button rank="quiet" icon={Plus} onClick={add}>
              Another kind
            </Button>
          </div>
          <ChecklistPart key={lists.fields[at]?.key} at={at} onTakeOut={lists.fields.length > 1 ? takeOut : null} />
          {wrongList >= 0 && wrongList !== at && (
            <Problem>{names[wrongList]?.name || "One kind of visit"} is not complete: look at its lines.</Problem>
          )}
        </Section>
        <Section id="asked-for" title="Due anew">
          <DutyRulesPart />
        </Section>
        {problem && <Problem>{problem}</Problem>}
        <div className="sticky bottom-0 flex items-center gap-3 border-t border-base-300 bg-base-100 py-2">
          <Button type="submit" rank="main" disabled={!isDirty || busy}>
            Keep
          </Button>
          {isDirty && (
            <Button rank="quiet" onClick={() => reset(setup)}>
              As it was
            </Button>
          )}
        </div>
      </form>
    </FormProvider>
  );
}
