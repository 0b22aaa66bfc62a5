"use client";
import { Scroller } from "@/components/kit/scroller";
import { Plus, X } from "lucide-react";
import { useConventions } from "@/components/kit/conventions";
import { DateField } from "@/components/kit/date-field";
import { Checkbox } from "@/components/kit/inputs";
import { Table } from "@/components/kit/table";
import { Button, IconButton } from "@/components/kit/button";
import { patched, type Patch } from "@/core/site-file/patch";
import { useState } from "react";
import { NumberField, TextField } from "@/components/kit/fields";
import { freshIds } from "@/core/site-file/fresh-id";
import { useWorkspace } from "@/components/draft/site-draft";
import { type EstablishmentStep, returnOn, USUAL_STEPS, withEstablishment } from "@/core/season/establishment";
import { localDate } from "@/core/dates/wall-time";
import type { Program } from "@/core/site-file/schema";

const TIME = /^([01]?\d|2[0-3]):[0-5]\d$/;

/** New turf or planting: dated steps from several times a day to deep and infrequent, then the usual program again. */
export function EstablishPanel({ program }: { program: Program }) {
  const { draft, edit, date } = useWorkspace("draft", "edit", "date");
  const planted = program.runs
    .filter((r) => draft.stations.find((s) => s.id === r.stationId)?.planting === "new")
    .map((r) => r.stationId);
  const [chosen, setChosen] = useState<string[]>(planted.length > 0 ? planted : program.runs.map((r) => r.stationId));
  const [steps, setSteps] = useState<EstablishmentStep[]>(USUAL_STEPS);
  const [first, setFirst] = useState(date);
  const [problem, setProblem] = useState<string | null>(null);
  const { date: write } = useConventions();
  const today = localDate(draft.site.timeZone, Math.floor(Date.now() / 1000));
  const put = (i: number, values: Patch<EstablishmentStep>): void =>
    setSteps(steps.map((s, n) => (n === i ? patched(s, values) : s)));
  const starts = (i: number, text: string): void => {
    const list = text.split(/[\s,;]+/).filter((t) => t !== "");
    const wrong = list.find((t) => !TIME.test(t));
    if (wrong !== undefined || list.length === 0) {
      setProblem(`Step ${i + 1}: "${wrong ?? ""}" is no time of day; write them like 05:00 09:00.`);
      return;
    }
    setProblem(null);
    put(i, { starts: list.map((t) => t.padStart(5, "0")).sort() });
  };
  return (
    <section aria-label="Establishment" className="border-y-2 border-base-content py-2 my-2">
      <h3 className="text-lg">
        Establish {chosen.length} of {program.runs.length} stations
      </h3>
      <details className="my-1">
        <summary className="cursor-pointer">Which stations</summary>
        <div className="columns-2">
          {program.runs.map((r) => {
            const s = draft.stations.find((x) => x.id === r.stationId);
            return (
              <label key={r.stationId} className="flex gap-2">
                <Checkbox
                  checked={chosen.includes(r.stationId)}
                  onChange={(e) =>
                    setChosen(e.target.checked ? [...chosen, r.stationId] : chosen.filter((x) => x !== r.stationId))
                  }
                />
                {s?.number} {s?.name}
                {s?.planting === "new" ? " (new)" : ""}
              </label>
            );
          })}
        </div>
      </details>
      <DateField label="First day" required value={first} onCommit={(v) => v && setFirst(v)} />
      <Scroller>
        <Table>
          <thead>
            <tr>
              <th>Step</th>
              <th className="text-right">Days</th>
              <th>Starts</th>
              <th className="text-right">% of usual</th>
              <th className="text-right">Every, days</th>
              <th>
                <span className="sr-only">Take out</span>
              </th>
            </tr>
          </thead>
          <tbody>
            {steps.map((s, i) => (
              // biome-ignore lint/suspicious/noArrayIndexKey: each is its place in the list
              <tr key={i}>
                <td>{i + 1}</td>
                <td className="w-20">
                  <NumberField
                    hideLabel
                    label={`Step ${i + 1}, days`}
                    value={s.days}
                    min={1}
                    max={120}
                    whole
                    required
                    onCommit={(v) => put(i, { days: v ?? s.days })}
                  />
                </td>
                <td>
                  <TextField
                    hideLabel
                    label={`Step ${i + 1}, starts`}
                    value={s.starts.join(" ")}
                    onCommit={(v) => starts(i, v)}
                  />
                </td>
                <td className="w-24">
                  <NumberField
                    hideLabel
                    label={`Step ${i + 1}, percent`}
                    value={s.percent}
                    min={1}
                    max={300}
                    required
                    onCommit={(v) => put(i, { percent: v ?? s.percent })}
                  />
                </td>
                <td className="w-20">
                  <NumberField
                    hideLabel
                    label={`Step ${i + 1}, every so many days`}
                    value={s.everyDays}
                    min={1}
                    max={30}
                    whole
                    required
                    onCommit={(v) => put(i, { everyDays: v ?? s.everyDays })}
                  />
                </td>
                <td>
                  {steps.length > 1 && (
                    <IconButton
                      label={`Take step ${i + 1} out`}
                      icon={X}
                      onClick={() => setSteps(steps.filter((_, n) => n !== i))}
                    />
                  )}
                </td>
              </tr>
            ))}
          </tbody>
        </Table>
      </Scroller>
      {problem && (
        <p role="alert" className="text-error">
          {problem}
        </p>
      )}
      <div className="flex flex-wrap items-center gap-2 mt-2">
        <Button
          icon={Plus}
          onClick={() => setSteps([...steps, steps[steps.length - 1] ?? (USUAL_STEPS[0] as EstablishmentStep)])}
        >
          step
        </Button>
        <Button
          rank="main"
          disabled={chosen.length === 0}
          onClick={() =>
            edit((f) => withEstablishment(f, program.id, chosen, steps, { first, today }, freshIds(f, "program")))
          }
        >
          Write {steps.length} dated programs
        </Button>
        <span className="text-sm text-faint">
          These stations{" "}
          {first > today ? `keep their usual program until ${write(first)}` : "leave their usual program now"} and come
          back to it on {write(returnOn(steps, first))}.
        </span>
      </div>
    </section>
  );
}
