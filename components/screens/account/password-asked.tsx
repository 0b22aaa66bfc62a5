"use client";
import { zodResolver } from "@hookform/resolvers/zod";
import { useId, useState } from "react";
import { useForm } from "react-hook-form";
import type { ownPassword } from "@/contracts/people";
import { Button } from "@/components/kit/button";
import { Dialog } from "@/components/kit/dialog";
import { Labelled } from "@/components/kit/fields";
import { Input } from "@/components/kit/inputs";
import { Problem } from "@/components/kit/notice";

type Asked = { password: string };

/** Something that takes one's own password once more. */
export function PasswordAsked({
  title,
  open,
  onClose,
  form,
  act,
  danger,
  onPassword,
  children,
}: {
  title: string;
  open: boolean;
  onClose: () => void;
  form: typeof ownPassword;
  act: string;
  danger: boolean;
  onPassword: (asked: Asked) => Promise<void>;
  children: React.ReactNode;
}) {
  const id = useId();
  const [problem, setProblem] = useState<string | null>(null);
  const {
    register,
    handleSubmit,
    reset,
    formState: { errors, isSubmitting },
  } = useForm<Asked>({ resolver: zodResolver(form), defaultValues: { password: "" } });
  const submit = async (asked: Asked): Promise<void> => {
    setProblem(null);
    try {
      await onPassword(asked);
      reset();
    } catch (error) {
      setProblem(error instanceof Error ? error.message : String(error));
    }
  };
  return (
    <Dialog
      title={title}
      open={open}
      onClose={() => {
        reset();
        setProblem(null);
        onClose();
      }}
    >
      <form onSubmit={handleSubmit(submit)} noValidate className="grid gap-3">
        <p>{children}</p>
        <Labelled id={id} label="Your password" error={errors.password?.message ?? null}>
          <Input
            id={id}
            type="password"
            autoComplete="current-password"
            aria-invalid={errors.password !== undefined}
            {...register("password")}
          />
        </Labelled>
        {problem && <Problem>{problem}</Problem>}
        <Button type="submit" rank={danger ? "danger" : "main"} disabled={isSubmitting}>
          {act}
        </Button>
      </form>
    </Dialog>
  );
}
