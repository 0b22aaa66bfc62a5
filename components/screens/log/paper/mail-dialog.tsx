"use client";
import { zodResolver } from "@hookform/resolvers/zod";
import { useMutation } from "@tanstack/react-query";
import { useId } from "react";
import { useForm } from "react-hook-form";
import { toast } from "sonner";
import type { z } from "zod";
import { request } from "@/components/data/request";
import { Button } from "@/components/kit/button";
import { Dialog } from "@/components/kit/dialog";
import { Labelled } from "@/components/kit/fields";
import { Input, TextArea } from "@/components/kit/inputs";
import { Problem } from "@/components/kit/notice";
import { paperLetterRequest } from "@/contracts/paper";

type Typed = z.input<typeof paperLetterRequest>;

/** Sends a sheet to an address, with a few words. @param asked size and time, as they stand on the screen */
export function MailDialog({
  address,
  title,
  asked,
  onClose,
}: {
  address: string;
  title: string;
  asked: Omit<Typed, "id" | "email" | "words">;
  onClose: () => void;
}) {
  const id = useId();
  const { register, handleSubmit, formState } = useForm<Typed>({
    resolver: zodResolver(paperLetterRequest),
    defaultValues: { id: crypto.randomUUID(), email: "", words: "", ...asked },
  });
  const send = useMutation({
    mutationFn: (body: Typed) => request<{ to: string }>("POST", address, body),
    onSuccess: ({ to }) => {
      toast(`On its way to ${to}`);
      onClose();
    },
  });
  const wrong = formState.errors.email?.message ?? null;
  return (
    <Dialog open title={`${title} by mail`} onClose={onClose}>
      <form noValidate onSubmit={handleSubmit((v) => send.mutate(v))} className="grid max-w-xl gap-3">
        <Labelled id={id} label="To" error={wrong}>
          <Input id={id} type="email" autoComplete="email" aria-invalid={wrong !== null} {...register("email")} />
        </Labelled>
        <Labelled id={`${id}-words`} label="A few words" hint="An answer goes to you.">
          <TextArea
            id={`${id}-words`}
            rows={4}
            maxLength={2000}
            aria-describedby={`${id}-words-hint`}
            {...register("words")}
          />
        </Labelled>
        {send.error && <Problem>{send.error.message}</Problem>}
        <div className="flex gap-2">
          <Button type="submit" rank="main" disabled={send.isPending}>
            {send.isPending ? "Making the sheet…" : "Send it"}
          </Button>
          <Button rank="quiet" onClick={onClose}>
            Leave it
          </Button>
        </div>
      </form>
    </Dialog>
  );
}
