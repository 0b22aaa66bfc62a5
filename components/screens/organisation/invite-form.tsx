"use client";
import { zodResolver } from "@hookform/resolvers/zod";
import { UserPlus } from "lucide-react";
import { useId } from "react";
import { useForm } from "react-hook-form";
import type { z } from "zod";
import { Button } from "@/components/kit/button";
import { Labelled } from "@/components/kit/fields";
import { Input, Select } from "@/components/kit/inputs";
import { inviteRequest } from "@/contracts/people";
import { ROLE_WORDS, ROLES } from "@/contracts/roles";

type Asked = z.infer<typeof inviteRequest>;

/** Somebody's address, and what they will be. */
export function InviteForm({ busy, onInvite }: { busy: boolean; onInvite: (asked: Asked) => Promise<unknown> }) {
  const id = useId();
  const {
    register,
    handleSubmit,
    reset,
    watch,
    formState: { errors },
  } = useForm<Asked>({ resolver: zodResolver(inviteRequest), defaultValues: { email: "", role: "technician" } });
  const submit = async (asked: Asked): Promise<void> => {
    await onInvite(asked);
    reset();
  };
  return (
    <form onSubmit={handleSubmit(submit)} noValidate className="flex flex-wrap items-start gap-3">
      <Labelled id={`${id}email`} label="E-mail" error={errors.email?.message ?? null} className="w-72">
        <Input
          id={`${id}email`}
          type="email"
          autoComplete="off"
          aria-invalid={errors.email !== undefined}
          {...register("email")}
        />
      </Labelled>
      <Labelled id={`${id}role`} label="As" hint={ROLE_WORDS[watch("role")]} className="w-96">
        <Select id={`${id}role`} aria-describedby={`${id}role-hint`} {...register("role")}>
          {[...ROLES].reverse().map((r) => (
            <option key={r} value={r}>
              {r}
            </option>
          ))}
        </Select>
      </Labelled>
      <Button type="submit" rank="main" icon={UserPlus} disabled={busy} className="mt-4">
        Invite
      </Button>
    </form>
  );
}
