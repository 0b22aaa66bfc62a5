"use client";
import { zodResolver } from "@hookform/resolvers/zod";
import { useQuery } from "@tanstack/react-query";
import { Plus } from "lucide-react";
import { useRouter } from "next/navigation";
import { useEffect, useId, useRef, useState } from "react";
import { useForm } from "react-hook-form";
import { z } from "zod";
import { request } from "@/components/data/request";
import type { SiteNames } from "@/contracts/rounds";
import { useSettings } from "@/components/data/use-organisation";
import { Button } from "@/components/kit/button";
import { Dialog } from "@/components/kit/dialog";
import { Labelled } from "@/components/kit/fields";
import { FileButton } from "@/components/kit/file-button";
import { Input, Select } from "@/components/kit/inputs";
import { Problem } from "@/components/kit/notice";

const form = z.object({
  name: z.string().trim().min(1, "A site needs a name.").max(200, "At most 200 characters."),
  timeZone: z
    .string()
    .refine((zone) => Intl.supportedValuesOf("timeZone").includes(zone), "Choose one of the list, like Europe/Vienna."),
  units: z.enum(["metric", "us"]),
  /** Another site as a pattern; empty: from nothing. */
  from: z.string(),
});
type Values = z.infer<typeof form>;
const MOST_BYTES = 8 * 1024 * 1024;

/** A site from nothing, or from a site file. */
export function NewSite() {
  const [open, setOpen] = useState(false);
  const [problem, setProblem] = useState<string | null>(null);
  const [busy, setBusy] = useState(false);
  const router = useRouter();
  /** What was asked last and its key: asked again, after an answer that never came, it is the same intention. */
  const intention = useRef({ asked: "", key: "" });
  const go = async (body: unknown): Promise<void> => {
    setBusy(true);
    setProblem(null);
    const asked = typeof body === "string" ? body : JSON.stringify(body);
    if (intention.current.asked !== asked) intention.current = { asked, key: crypto.randomUUID() };
    try {
      const { id } = await request<{ id: string }>("POST", "/api/sites", asked, intention.current.key);
      router.push(`/sites/${id}/waterworks`);
    } catch (error) {
      setProblem(error instanceof Error ? error.message : String(error));
      setBusy(false);
    }
  };
  const take = async (chosen: File): Promise<void> => {
    if (chosen.size > MOST_BYTES)
      setProblem(
        `${chosen.name} is ${(chosen.size / 1024 / 1024).toFixed(0)} MB; a site file is at most 8 MB. This is something else.`,
      );
    else await go(await chosen.text());
  };
  return (
    <>
      <FileButton
        rank="quiet"
        name="Site file to import"
        accept=".json,application/json"
        disabled={busy}
        onFile={(file) => void take(file)}
      >
        Import a site file
      </FileButton>
      <Button rank="main" icon={Plus} aria-expanded={open} onClick={() => setOpen(true)}>
        New site
      </Button>
      {problem && !open && <Problem className="basis-full">{problem}</Problem>}
      <Dialog title="New site" open={open} onClose={() => setOpen(false)}>
        <NewSiteForm busy={busy} problem={problem} onCreate={(values) => void go(askedOf(values))} />
      </Dialog>
    </>
  );
}

function askedOf({ from, units, ...of }: Values): object {
  return from === "" ? { create: { ...of, units } } : { pattern: { ...of, from } };
}

function NewSiteForm({
  busy,
  problem,
  onCreate,
}: {
  busy: boolean;
  problem: string | null;
  onCreate: (values: Values) => void;
}) {
  const id = useId();
  const { settings } = useSettings();
  const sites = useQuery({ queryKey: ["sites"], queryFn: () => request<SiteNames>("GET", "/api/sites") });
  const {
    register,
    handleSubmit,
    watch,
    reset,
    formState: { errors, isDirty },
  } = useForm<Values>({
    resolver: zodResolver(form),
    defaultValues: { name: "", timeZone: Intl.DateTimeFormat().resolvedOptions().timeZone, units: "metric", from: "" },
  });
  // What the organisation's sites begin with, unless something is written already.
  useEffect(() => {
    if (settings && !isDirty)
      reset((now) => ({ ...now, units: settings.units, timeZone: settings.timeZone ?? now.timeZone }));
  }, [settings, isDirty, reset]);
  return (
    <form onSubmit={handleSubmit(onCreate)} noValidate className="flex flex-col gap-3">
      <Labelled id={`${id}-name`} label="Name of the site" error={errors.name?.message ?? null}>
        <Input id={`${id}-name`} aria-invalid={errors.name !== undefined} {...register("name")} />
      </Labelled>
      <Labelled
        id={`${id}-from`}
        label="Begun from"
        hint={
          watch("from") === ""
            ? undefined
            : "Its pieces, programs and limits; without its history, serial numbers and learned figures."
        }
      >
        <Select id={`${id}-from`} {...register("from")}>
          <option value="">nothing</option>
          {(sites.data?.sites ?? []).map((s) => (
            <option key={s.id} value={s.id}>
              {s.name}
            </option>
          ))}
        </Select>
      </Labelled>
      <Labelled id={`${id}-zone`} label="Time zone" error={errors.timeZone?.message ?? null}>
        <Input
          id={`${id}-zone`}
          list={`${id}-zones`}
          aria-invalid={errors.timeZone !== undefined}
          {...register("timeZone")}
        />
        <datalist id={`${id}-zones`}>
          {Intl.supportedValuesOf("timeZone").map((z) => (
            <option key={z} value={z} />
          ))}
        </datalist>
      </Labelled>
      {watch("from") === "" && (
        <Labelled id={`${id}-units`} label="Units shown">
          <Select id={`${id}-units`} {...register("units")}>
            <option value="metric">metric</option>
            <option value="us">US customary</option>
          </Select>
        </Labelled>
      )}
      {problem && <Problem>{problem}</Problem>}
      <div>
        <Button type="submit" rank="main" disabled={busy}>
          {watch("from") === "" ? "Create and draw its waterworks" : "Create from this pattern"}
        </Button>
      </div>
    </form>
  );
}
