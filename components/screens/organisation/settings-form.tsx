"use client";
import { zodResolver } from "@hookform/resolvers/zod";
import { useEffect, useId } from "react";
import { useForm } from "react-hook-form";
import { useSettings } from "@/components/data/use-organisation";
import { Button } from "@/components/kit/button";
import { Labelled } from "@/components/kit/fields";
import { Input, Select } from "@/components/kit/inputs";
import { Problem } from "@/components/kit/notice";
import { type OrganisationSettings, organisationSettings } from "@/contracts/organisation";
import { SCHOOLS } from "@/core/limits/schools";

/** The organisation's name, and what its new sites begin with. */
export function SettingsForm() {
  const { settings, problem, change } = useSettings();
  if (!settings) return problem ? <Problem>{problem}</Problem> : <p role="status">Looking up the settings…</p>;
  return (
    <Form
      settings={settings}
      busy={change.isPending}
      problem={change.error?.message ?? null}
      onKeep={(values) => change.mutate(values)}
    />
  );
}

function Form({
  settings,
  busy,
  problem,
  onKeep,
}: {
  settings: OrganisationSettings;
  busy: boolean;
  problem: string | null;
  onKeep: (settings: OrganisationSettings) => void;
}) {
  const id = useId();
  const {
    register,
    handleSubmit,
    reset,
    formState: { errors, isDirty },
  } = useForm<OrganisationSettings>({ resolver: zodResolver(organisationSettings), defaultValues: settings });
  useEffect(() => reset(settings), [settings, reset]);
  return (
    <form onSubmit={handleSubmit(onKeep)} noValidate className="grid max-w-xl gap-3">
      <Labelled id={`${id}-name`} label="Name of the organisation" error={errors.name?.message ?? null}>
        <Input id={`${id}-name`} aria-invalid={errors.name !== undefined} {...register("name")} />
      </Labelled>
      <p className="mt-2 text-faint">New sites begin with:</p>
      <Labelled
        id={`${id}-zone`}
        label="Time zone"
        hint="Empty: that of whoever begins the site"
        error={errors.timeZone?.message ?? null}
      >
        <Input
          id={`${id}-zone`}
          list={`${id}-zones`}
          aria-invalid={errors.timeZone !== undefined}
          {...register("timeZone", { setValueAs: (v: string | null) => v?.trim() || null })}
        />
        <datalist id={`${id}-zones`}>
          {Intl.supportedValuesOf("timeZone").map((z) => (
            <option key={z} value={z} />
          ))}
        </datalist>
      </Labelled>
      <Labelled id={`${id}-units`} label="Units, and how dates and numbers are written">
        <Select id={`${id}-units`} {...register("units")}>
          <option value="metric">metric: L/min, 26 Nov 2026</option>
          <option value="us">US customary: gal/min, Nov 26, 2026</option>
        </Select>
      </Labelled>
      <Labelled id={`${id}-school`} label="Limits from the starting point">
        <Select id={`${id}-school`} {...register("school")}>
          {SCHOOLS.map((s) => (
            <option key={s.id} value={s.id}>
              {s.name}: {s.suits}
            </option>
          ))}
        </Select>
      </Labelled>
      {problem && <Problem>{problem}</Problem>}
      <div>
        <Button type="submit" rank="main" disabled={!isDirty || busy}>
          Keep
        </Button>
      </div>
    </form>
  );
}
