"use client";
import { Camera, Trash2 } from "lucide-react";
import { useId } from "react";
import { Controller, useForm } from "react-hook-form";
import { keptAt } from "@/components/data/keep-file";
import { useMeterLog } from "@/components/data/use-meters";
import { usePhotos } from "@/components/data/use-photos";
import { useWorkspace } from "@/components/draft/site-draft";
import { Button, IconButton } from "@/components/kit/button";
import { useConventions } from "@/components/kit/conventions";
import { DateField } from "@/components/kit/date-field";
import { ChoiceField, Labelled, NumberField, TickField } from "@/components/kit/fields";
import { FileButton } from "@/components/kit/file-button";
import { Input } from "@/components/kit/inputs";
import { Problem } from "@/components/kit/notice";
import { fileStem } from "@/components/kit/save-file";
import { Scroller } from "@/components/kit/scroller";
import { Table, ToolsHead } from "@/components/kit/table";
import { TakenAway } from "@/components/kit/taken-away";
import { TimeField } from "@/components/kit/time-field";
import { metersCsv } from "@/components/words/record-csv";
import type { MeterEntry, MeterLog } from "@/contracts/meters";
import { instantOf, localClock, localDate } from "@/core/dates/wall-time";
import { verdictOfMeter } from "./meter-words";

/** What was read of each water meter, beside what the sensors behind it summed meanwhile, and what the difference is. */
export function MeterPanel({ nameOf }: { nameOf: (deviceId: string) => string }) {
  const { siteId, draft, canEdit } = useWorkspace("siteId", "draft", "canEdit");
  const { meters, problem, enter, takeOut } = useMeterLog(siteId);
  if (problem) return <Problem>{problem}</Problem>;
  if (!meters) return <p role="status">Reading the meter log…</p>;
  if (meters.length === 0)
    return (
      <p className="max-w-prose">
        No water meter yet. Add one to a point of connection on Waterworks; its readings tell whether the sensors see
        all that flows.
      </p>
    );
  return (
    <div className="grid max-w-5xl gap-6">
      {canEdit && (
        <EntryForm
          meters={meters.map((m) => [m.meterId, nameOf(m.meterId)] as const)}
          problem={enter.error?.message ?? null}
          onEnter={(entry) => enter.mutateAsync(entry)}
        />
      )}
      {meters.map((m) => (
        <OneMeter
          key={m.meterId}
          log={m}
          name={nameOf(m.meterId)}
          sensors={m.sensorIds.map(nameOf)}
          onTakeOut={canEdit ? (id) => takeOut.mutate(id) : null}
        />
      ))}
      <div className="flex">
        <TakenAway csv={() => metersCsv(meters, nameOf)} name={`${fileStem(draft)}-meters`} />
      </div>
      {takeOut.error && <Problem>{takeOut.error.message}</Problem>}
    </div>
  );
}

function OneMeter({
  log,
  name,
  sensors,
  onTakeOut,
}: {
  log: MeterLog;
  name: string;
  sensors: string[];
  onTakeOut: ((id: string) => void) | null;
}) {
  const { siteId } = useWorkspace("siteId");
  const conventions = useConventions();
  const { unit, figure, momentAt } = conventions;
  return (
    <section aria-label={name}>
      <h3 className="font-semibold">{name}</h3>
      <p className="mb-2 max-w-prose" role="note">
        {sensors.length === 0
          ? "No sensor sees what flows through it: Water counts it by this meter, evenly over the days between two readings."
          : verdictOfMeter(log.verdict, conventions)}
      </p>
      {log.readings.length > 0 && (
        <Scroller>
          <Table aria-label={`Readings of ${name}`}>
            <thead>
              <tr>
                <th>Read</th>
                <th className="text-right">Stands at, {unit("bulk")}</th>
                <th className="text-right">Since before, {unit("bulk")}</th>
                <th className="text-right">Sensors, {unit("bulk")}</th>
                <th className="text-right">Difference, {unit("bulk")}</th>
                <th>Note</th>
                {onTakeOut && <ToolsHead />}
              </tr>
            </thead>
            <tbody>
              {log.readings.map((r) => (
                <tr key={r.id}>
                  <td className="whitespace-nowrap">
                    {momentAt(r.at)}, {r.by}
                  </td>
                  <td className="text-right tabular-nums">{figure(r.m3, "bulk", 3)}</td>
                  <td className="text-right tabular-nums">
                    {r.between ? figure(r.between.meterM3, "bulk", 2) : <Begins begins={r.begins} />}
                  </td>
                  <td className="text-right tabular-nums">{r.between ? figure(r.between.sensorM3, "bulk", 2) : "–"}</td>
                  <td className="text-right tabular-nums">
                    {r.between ? figure(r.between.meterM3 - r.between.sensorM3, "bulk", 2) : "–"}
                  </td>
                  <td>
                    {r.note}{" "}
                    {r.photoId && (
                      <a className="link" href={keptAt(siteId, r.photoId)} target="_blank" rel="noreferrer">
                        photograph
                      </a>
                    )}
                  </td>
                  {onTakeOut && (
                    <td className="text-right">
                      <IconButton
                        label={`Take the reading of ${momentAt(r.at)} out`}
                        icon={Trash2}
                        onClick={() => onTakeOut(r.id)}
                      />
                    </td>
                  )}
                </tr>
              ))}
            </tbody>
          </Table>
        </Scroller>
      )}
    </section>
  );
}

const Begins = ({ begins }: { begins: boolean }) => <span className="text-faint">{begins ? "begins" : "first"}</span>;

type Typed = {
  meterId: string;
  date: string;
  time: string;
  m3: number | undefined;
  begins: boolean;
  note: string;
};

function EntryForm({
  meters,
  problem,
  onEnter,
}: {
  meters: (readonly [string, string])[];
  problem: string | null;
  onEnter: (entry: MeterEntry) => Promise<unknown>;
}) {
  const id = useId();
  const { siteId, draft, units } = useWorkspace("siteId", "draft", "units");
  const { timeZone } = draft.site;
  const here = (): Pick<Typed, "date" | "time"> => {
    const t = Math.floor(Date.now() / 1000);
    return { date: localDate(timeZone, t), time: localClock(timeZone, t).slice(0, 5) };
  };
  const { control, register, handleSubmit, reset, setError, formState } = useForm<Typed>({
    defaultValues: { meterId: meters[0]?.[0] ?? "", ...here(), m3: undefined, begins: false, note: "" },
  });
  const { photos, sending, wrong, take, clear } = usePhotos(siteId);
  const photo = photos.at(-1);
  const enter = async ({ date, time, m3, ...typed }: Typed): Promise<void> => {
    if (m3 === undefined) {
      setError("m3", { message: "What the meter shows is needed." });
      return;
    }
    const at = new Date(1000 * instantOf(timeZone, date, time)).toISOString();
    await onEnter({ id: crypto.randomUUID(), ...typed, at, m3, photoId: photo?.id ?? null });
    clear();
    reset({ meterId: typed.meterId, ...here(), m3: undefined, begins: false, note: "" });
  };
  return (
    <form
      aria-label="A meter reading"
      // A refusal is told below; the form keeps what was typed.
      onSubmit={handleSubmit((v) => enter(v).catch(() => {}))}
      noValidate
      className="grid gap-x-3 gap-y-2 sm:grid-cols-[repeat(auto-fit,minmax(9rem,1fr))] sm:items-end"
    >
      {meters.length > 1 && (
        <Controller
          control={control}
          name="meterId"
          render={({ field }) => (
            <ChoiceField label="Meter" value={field.value} options={meters} onCommit={field.onChange} />
          )}
        />
      )}
      <Controller
        control={control}
        name="date"
        render={({ field }) => <DateField label="Read on" required value={field.value} onCommit={field.onChange} />}
      />
      <Controller
        control={control}
        name="time"
        render={({ field }) => <TimeField label="at" required value={field.value} onCommit={field.onChange} />}
      />
      <Controller
        control={control}
        name="m3"
        render={({ field }) => (
          <NumberField
            label="It shows"
            quantity="bulk"
            system={units}
            min={0}
            max={1e9}
            value={field.value}
            onCommit={field.onChange}
          />
        )}
      />
      <Labelled id={id} label="Note">
        <Input id={id} {...register("note")} />
      </Labelled>
      <Controller
        control={control}
        name="begins"
        render={({ field }) => (
          <TickField label="Another meter begins here" checked={field.value} onCommit={field.onChange} />
        )}
      />
      <div className="col-span-full flex flex-wrap items-center gap-2">
        <Button type="submit" rank="main" disabled={sending || formState.isSubmitting}>
          Enter the reading
        </Button>
        <FileButton
          name="A photograph of the meter"
          accept="image/*"
          capture="environment"
          rank="quiet"
          icon={Camera}
          disabled={sending}
          onFile={take}
        >
          {photo ? "Another photograph" : "Photograph"}
        </FileButton>
        {photo && <span className="text-faint">{photo.name}</span>}
      </div>
      {(formState.errors.m3?.message ?? wrong ?? problem) && (
        <Problem className="col-span-full">{formState.errors.m3?.message ?? wrong ?? problem}</Problem>
      )}
    </form>
  );
}
