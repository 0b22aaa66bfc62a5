"use client";
import { Button } from "@/components/kit/button";
import { HiddenFileInput, Input, Select } from "@/components/kit/inputs";
import { useRouter } from "next/navigation";
import { useRef, useState } from "react";
import { request } from "@/components/data/request";

/** A site from nothing, or from a site file. */
export function NewSite() {
  const [open, setOpen] = useState(false);
  const [problem, setProblem] = useState<string | null>(null);
  const [busy, setBusy] = useState(false);
  const file = useRef<HTMLInputElement>(null);
  const router = useRouter();
  const go = async (body: unknown): Promise<void> => {
    setBusy(true);
    setProblem(null);
    try {
      const { id } = await request<{ id: string }>("POST", "/api/sites", body);
      router.push(`/sites/${id}/waterworks`);
    } catch (error) {
      setProblem(error instanceof Error ? error.message : String(error));
      setBusy(false);
    }
  };
  const create = (event: React.FormEvent<HTMLFormElement>): void => {
    event.preventDefault();
    const form = new FormData(event.currentTarget);
    void go({ create: { name: form.get("name"), timeZone: form.get("timeZone"), units: form.get("units") } });
  };
  const take = async (): Promise<void> => {
    const chosen = file.current?.files?.[0];
    if (!chosen) return;
    if (chosen.size > 8 * 1024 * 1024)
      setProblem(
        `${chosen.name} is ${(chosen.size / 1024 / 1024).toFixed(0)} MB; a site file is at most 8 MB. This is something else.`,
      );
    else await go(await chosen.text());
    if (file.current) file.current.value = "";
  };
  return (
    <>
      <Button rank="main" aria-expanded={open} onClick={() => setOpen(!open)}>
        New site
      </Button>
      <Button onClick={() => file.current?.click()} disabled={busy}>
        Import a site file
      </Button>
      <HiddenFileInput ref={file} accept=".json,application/json" aria-label="Site file to import" onChange={take} />
      {problem && (
        <p role="alert" className="basis-full text-error font-semibold">
          {problem}
        </p>
      )}
      {open && (
        <form onSubmit={create} className="basis-full flex flex-wrap items-end gap-3 border-y border-base-300 py-3">
          <label className="w-72">
            <span className="block text-sm text-faint">Name of the site</span>
            <Input name="name" required maxLength={200} />
          </label>
          <label className="w-56">
            <span className="block text-sm text-faint">Time zone</span>
            <Input
              name="timeZone"
              list="zones"
              required
              defaultValue={Intl.DateTimeFormat().resolvedOptions().timeZone}
            />
            <datalist id="zones">
              {Intl.supportedValuesOf("timeZone").map((z) => (
                <option key={z} value={z} />
              ))}
            </datalist>
          </label>
          <label className="w-48">
            <span className="block text-sm text-faint">Units shown</span>
            <Select name="units" defaultValue="metric">
              <option value="metric">metric</option>
              <option value="us">US customary</option>
            </Select>
          </label>
          <Button rank="main" type="submit" disabled={busy}>
            Create and draw its waterworks
          </Button>
        </form>
      )}
    </>
  );
}
