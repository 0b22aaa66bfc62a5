"use client";
import { useId, useState } from "react";
import { useForm } from "react-hook-form";
import { Button } from "@/components/kit/button";
import { Dialog } from "@/components/kit/dialog";
import { Labelled } from "@/components/kit/fields";
import { Input } from "@/components/kit/inputs";
import { Problem } from "@/components/kit/notice";

type Asked = { name: string; password: string };

/** The end of it all: only with the organisation's name and the manager's own password. */
export function EraseForm({
  name,
  busy,
  problem,
  onErase,
}: {
  name: string;
  busy: boolean;
  problem: string | null;
  onErase: (asked: Asked) => void;
}) {
  const id = useId();
  const [open, setOpen] = useState(false);
  const { register, handleSubmit, watch } = useForm<Asked>({ defaultValues: { name: "", password: "" } });
  return (
    <>
      <p className="max-w-prose mb-3">
        Every site, night, alarm, reading and person of {name} is deleted for good, and everyone is signed out. A note
        that it was done, when and by whom, is all that stays with whoever runs Presa. Export everything first.
      </p>
      <Button rank="danger" onClick={() => setOpen(true)}>
        Erase {name}…
      </Button>
      <Dialog title={`Erase ${name}`} open={open} onClose={() => setOpen(false)}>
        <form onSubmit={handleSubmit(onErase)} className="grid gap-3">
          <p>This cannot be undone. Write the organisation's name, and your password.</p>
          <Labelled id={`${id}name`} label="Its name, as it stands">
            <Input id={`${id}name`} autoComplete="off" {...register("name")} />
          </Labelled>
          <Labelled id={`${id}password`} label="Your password">
            <Input id={`${id}password`} type="password" autoComplete="current-password" {...register("password")} />
          </Labelled>
          {problem && <Problem>{problem}</Problem>}
          <Button
            type="submit"
            rank="danger"
            disabled={busy || watch("name").trim() !== name || watch("password") === ""}
          >
            Erase everything
          </Button>
        </form>
      </Dialog>
    </>
  );
}
