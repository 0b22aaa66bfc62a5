"use client";
import { zodResolver } from "@hookform/resolvers/zod";
import { useEffect, useId } from "react";
import { useForm } from "react-hook-form";
import { z } from "zod";
import { Button } from "@/components/kit/button";
import { Labelled } from "@/components/kit/fields";
import { Input } from "@/components/kit/inputs";
import { Problem } from "@/components/kit/notice";
import { type Keeping, keeping } from "@/contracts/organisation";

const FIELDS: [keyof Keeping, string, string][] = [
  ["readingsDays", "Readings, second by second", "then their hourly mean, least and most stay"],
  ["eventsDays", "Events of the night", "then how many of each a day stay"],
  ["photosDays", "Photographs of alarms", "then the entry stays, without its picture"],
];
/** An empty field keeps for ever. */
const text = z
  .string()
  .trim()
  .regex(/^\d*$/, "takes a whole number of days, or nothing")
  .transform((s) => (s === "" ? null : Number(s)));
const form = z.object({ readingsDays: text, eventsDays: text, photosDays: text }).pipe(keeping);
type Typed = Record<keyof Keeping, string>;
const typed = (of: Keeping): Typed => ({
  readingsDays: String(of.readingsDays ?? ""),
  eventsDays: String(of.eventsDays ?? ""),
  photosDays: String(of.photosDays ?? ""),
});

export function KeepingForm({
  keeping: now,
  busy,
  problem,
  onKeep,
}: {
  keeping: Keeping;
  busy: boolean;
  problem: string | null;
  onKeep: (keeping: Keeping) => void;
}) {
  const id = useId();
  const {
    register,
    handleSubmit,
    reset,
    watch,
    formState: { errors, isDirty },
  } = useForm<Typed, unknown, Keeping>({ resolver: zodResolver(form), defaultValues: typed(now) });
  useEffect(() => reset(typed(now)), [now, reset]);
  const shorter = FIELDS.filter(([key]) => {
    const days = watch(key).trim();
    return days !== "" && Number(days) < (now[key] ?? Number.POSITIVE_INFINITY);
  });
  return (
    <form onSubmit={handleSubmit(onKeep)} noValidate>
      <div className="flex flex-wrap gap-4 mb-2">
        {FIELDS.map(([key, label, then]) => (
          <Labelled
            key={key}
            id={`${id}${key}`}
            label={`${label}, days`}
            hint={then}
            error={errors[key]?.message ?? null}
            className="w-64"
          >
            <Input
              id={`${id}${key}`}
              className="text-right"
              inputMode="numeric"
              placeholder="for ever"
              aria-invalid={errors[key] !== undefined}
              {...register(key)}
            />
          </Labelled>
        ))}
      </div>
      {shorter.length > 0 && (
        <p className="mb-2 max-w-prose text-warning font-semibold">
          {shorter.map(([, label]) => label).join(", ")}: what is older goes within the hour and cannot be had back.
        </p>
      )}
      {problem && <Problem>{problem}</Problem>}
      <Button type="submit" disabled={!isDirty || busy}>
        Keep so
      </Button>
    </form>
  );
}
