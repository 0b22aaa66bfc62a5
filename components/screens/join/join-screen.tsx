"use client";
import { zodResolver } from "@hookform/resolvers/zod";
import { DoorOpen } from "lucide-react";
import { useState } from "react";
import { useForm } from "react-hook-form";
import { z } from "zod";
import { request } from "@/components/data/request";
import { Button, ButtonLink } from "@/components/kit/button";
import { Labelled } from "@/components/kit/fields";
import { Input } from "@/components/kit/inputs";
import { Problem } from "@/components/kit/notice";
import { type Joining, LEAST_PASSWORD, newPassword, personName } from "@/contracts/people";
import { ROLE_WORDS } from "@/contracts/roles";

const form = z.object({ name: personName, password: newPassword });
type Values = z.infer<typeof form>;

/** Where a link that works once leads: one joins with a name and a password, or chooses another password. */
export function JoinScreen({ token, joining }: { token: string; joining: Joining | string }) {
  if (typeof joining === "string")
    return (
      <main className="p-8 sm:p-12 max-w-xl">
        <h1 className="text-2xl mb-3">This link leads nowhere any more</h1>
        <p className="mb-4">{joining}</p>
        <ButtonLink href="/sign-in">To the sign-in</ButtonLink>
      </main>
    );
  return <Form token={token} joining={joining} />;
}

function Form({ token, joining }: { token: string; joining: Joining }) {
  const { organisation, email, role, name } = joining;
  const [problem, setProblem] = useState<string | null>(null);
  const {
    register,
    handleSubmit,
    formState: { errors, isSubmitting },
  } = useForm<Values>({ resolver: zodResolver(form), defaultValues: { name: name ?? "", password: "" } });
  const submit = async (values: Values): Promise<void> => {
    setProblem(null);
    try {
      const asked = name === null ? values : { password: values.password };
      await request("POST", `/api/joining/${encodeURIComponent(token)}`, asked);
      window.location.assign("/");
    } catch (error) {
      setProblem(error instanceof Error ? error.message : String(error));
    }
  };
  return (
    <main className="p-8 sm:p-12 max-w-xl">
      <form onSubmit={handleSubmit(submit)} noValidate className="flex flex-col gap-4">
        <div>
          <h1 className="text-2xl">{name === null ? `Join ${organisation}` : "Choose another password"}</h1>
          <p className="text-faint mt-1">
            {email}, {role}: {ROLE_WORDS[role]}.
            {name !== null && " Wherever you are signed in now, you are signed out."}
          </p>
        </div>
        <Input type="hidden" autoComplete="username" value={email} readOnly />
        {name === null && (
          <Labelled id="name" label="Your name, as others see it" error={errors.name?.message ?? null}>
            <Input id="name" autoComplete="name" aria-invalid={errors.name !== undefined} {...register("name")} />
          </Labelled>
        )}
        <Labelled
          id="password"
          label="Password"
          hint={`At least ${LEAST_PASSWORD} characters; a few words are easy to remember.`}
          error={errors.password?.message ?? null}
        >
          <Input
            id="password"
            type="password"
            autoComplete="new-password"
            aria-invalid={errors.password !== undefined}
            aria-describedby={errors.password ? "password-error" : "password-hint"}
            {...register("password")}
          />
        </Labelled>
        {problem && <Problem>{problem}</Problem>}
        <Button rank="main" type="submit" icon={DoorOpen} className="self-start" disabled={isSubmitting}>
          {name === null ? "Join" : "Keep it and sign in"}
        </Button>
      </form>
    </main>
  );
}
