"use client";
import { zodResolver } from "@hookform/resolvers/zod";
import { useId, useState } from "react";
import { useForm } from "react-hook-form";
import { z } from "zod";
import { useCounters } from "@/components/data/use-meters";
import { useWorkspace } from "@/components/draft/site-draft";
import { Button } from "@/components/kit/button";
import { useConventions } from "@/components/kit/conventions";
import { Dialog } from "@/components/kit/dialog";
import { Labelled } from "@/components/kit/fields";
import { Input } from "@/components/kit/inputs";
import { Problem } from "@/components/kit/notice";
import { fileStem } from "@/components/kit/save-file";
import { Scroller } from "@/components/kit/scroller";
import { Table, ToolsHead } from "@/components/kit/table";
import { TakenAway } from "@/components/kit/taken-away";
import { countersCsv } from "@/components/words/record-csv";
import type { CounterView } from "@/contracts/meters";
import { counterReset } from "@/contracts/meters";

const resetForm = z.object({ reason: counterReset.shape.reason });

/** Two counters a sensor, each begun anew by hand, as by month and by year; they run on and change nothing else. */
export function CountersPanel({ nameOf }: { nameOf: (sensorId: string) => string }) {
  const { siteId, draft, canEdit } = useWorkspace("siteId", "draft", "canEdit");
  const { counters, problem, reset } = useCounters(siteId);
  const { unit, figure, momentAt } = useConventions();
  const [asking, setAsking] = useState<CounterView | null>(null);
  if (problem) return <Problem>{problem}</Problem>;
  if (!counters) return <p role="status">Reading the counters…</p>;
  return (
    <section aria-label="Counters" className="max-w-5xl">
      <p className="mb-2 max-w-prose text-faint">
        Each sensor has two counters, one for the month and one for the year as most use them. Beginning one anew
        changes nothing else. They count what was read up to a quarter of an hour ago.
      </p>
      <Scroller>
        <Table aria-label="Counters">
          <thead>
            <tr>
              <th>Sensor</th>
              <th>Counter</th>
              <th className="text-right">{unit("bulk")}</th>
              <th>Since</th>
              <th>Why</th>
              {canEdit && <ToolsHead />}
            </tr>
          </thead>
          <tbody>
            {counters.map((c) => (
              <tr key={`${c.sensorId} ${c.counter}`}>
                <td>{nameOf(c.sensorId)}</td>
                <td>{c.counter === 1 ? "first" : "second"}</td>
                <td className="text-right font-semibold tabular-nums">{figure(c.litres / 1000, "bulk", 2)}</td>
                <td>{c.since ? `${momentAt(c.since)}, ${c.by}` : "the first reading"}</td>
                <td>{c.reason ?? "–"}</td>
                {canEdit && (
                  <td className="text-right">
                    <Button onClick={() => setAsking(c)}>Begin anew…</Button>
                  </td>
                )}
              </tr>
            ))}
          </tbody>
        </Table>
      </Scroller>
      <div className="flex">
        <TakenAway csv={() => countersCsv(counters, nameOf)} name={`${fileStem(draft)}-counters`} />
      </div>
      <Dialog
        title={
          asking
            ? `Begin the ${asking.counter === 1 ? "first" : "second"} counter of ${nameOf(asking.sensorId)} anew`
            : ""
        }
        open={asking !== null}
        onClose={() => setAsking(null)}
      >
        {asking && (
          <ResetForm
            stands={`${figure(asking.litres / 1000, "bulk", 2)} ${unit("bulk")}`}
            busy={reset.isPending}
            problem={reset.error?.message ?? null}
            onReset={async (reason) => {
              const { sensorId, counter } = asking;
              await reset.mutateAsync({ id: crypto.randomUUID(), sensorId, counter, reason });
              setAsking(null);
            }}
          />
        )}
      </Dialog>
    </section>
  );
}

function ResetForm({
  stands,
  busy,
  problem,
  onReset,
}: {
  stands: string;
  busy: boolean;
  problem: string | null;
  onReset: (reason: string) => Promise<void>;
}) {
  const id = useId();
  const {
    register,
    handleSubmit,
    formState: { errors },
  } = useForm<z.infer<typeof resetForm>>({ resolver: zodResolver(resetForm), defaultValues: { reason: "" } });
  return (
    // A refusal is told below; the form keeps what was typed.
    <form onSubmit={handleSubmit((v) => onReset(v.reason).catch(() => {}))} noValidate className="grid gap-3">
      <p>It stands at {stands}. What was read so far stays in Water and in the meter log.</p>
      <Labelled id={id} label="Why" error={errors.reason?.message ?? null}>
        <Input
          id={id}
          placeholder="a new month"
          aria-invalid={errors.reason !== undefined}
          aria-describedby={errors.reason ? `${id}-error` : undefined}
          {...register("reason")}
        />
      </Labelled>
      {problem && <Problem>{problem}</Problem>}
      <div>
        <Button type="submit" rank="main" disabled={busy}>
          Begin anew
        </Button>
      </div>
    </form>
  );
}
