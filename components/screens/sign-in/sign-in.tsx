"use client";
import { zodResolver } from "@hookform/resolvers/zod";
import { LogIn } from "lucide-react";
import { useState } from "react";
import { useForm } from "react-hook-form";
import { z } from "zod";
import { request, RequestRefused } from "@/components/data/request";
import { Button } from "@/components/kit/button";
import { Labelled } from "@/components/kit/fields";
import { Input } from "@/components/kit/inputs";
import { Problem } from "@/components/kit/notice";

const form = z.object({
  email: z.email("Write the whole address, like name@example.org."),
  password: z.string().min(1, "The password is needed."),
  code: z.string().optional(),
});
type Values = z.infer<typeof form>;

/** @param to where one goes then */
export function SignIn({ to }: { to: string }) {
  const [problem, setProblem] = useState<string | null>(null);
  // The password was right, and a second step is set up.
  const [asksCode, setAsksCode] = useState(false);
  const {
    register,
    handleSubmit,
    formState: { errors, isSubmitting },
  } = useForm<Values>({ resolver: zodResolver(form), defaultValues: { email: "", password: "" } });
  const submit = async (values: Values): Promise<void> => {
    setProblem(null);
    try {
      const { code, ...door } = values;
      await request("POST", "/api/session", asksCode ? { ...door, code: code ?? "" } : door);
      window.location.assign(to);
    } catch (error) {
      if (error instanceof RequestRefused && error.code === "codeNeeded") setAsksCode(true);
      else setProblem(error instanceof Error ? error.message : String(error));
    }
  };
  return (
    <main className="min-h-dvh grid sm:grid-cols-[minmax(18rem,26rem)_1fr]">
      <form onSubmit={handleSubmit(submit)} noValidate className="p-8 sm:p-12 flex flex-col gap-4 self-center">
        <div>
          <h1 className="text-[2.75rem] leading-none font-semibold">Presa</h1>
          <p className="text-faint mt-2">What the water allows, proved before the valves open.</p>
        </div>
        <Labelled id="email" label="E-mail" error={errors.email?.message ?? null}>
          <Input
            id="email"
            type="email"
            autoComplete="username"
            aria-invalid={errors.email !== undefined}
            aria-describedby={errors.email ? "email-error" : undefined}
            {...register("email")}
          />
        </Labelled>
        <Labelled id="password" label="Password" error={errors.password?.message ?? null}>
          <Input
            id="password"
            type="password"
            autoComplete="current-password"
            aria-invalid={errors.password !== undefined}
            aria-describedby={errors.password ? "password-error" : undefined}
            {...register("password")}
          />
        </Labelled>
        {asksCode && (
          <Labelled id="code" label="Code" hint="Six figures from your authenticator, or one of your recovery codes">
            <Input
              id="code"
              autoFocus
              autoComplete="one-time-code"
              inputMode="text"
              aria-describedby="code-hint"
              {...register("code")}
            />
          </Labelled>
        )}
        {problem && <Problem>{problem}</Problem>}
        <Button rank="main" type="submit" icon={LogIn} className="self-start" disabled={isSubmitting}>
          {isSubmitting ? "Signing in…" : "Sign in"}
        </Button>
        <p className="text-xs text-faint">Presa opens no real valves.</p>
      </form>
      <Elbow />
    </main>
  );
}

/** A section through a main with its pinch: what the whole tool is about. */
function Elbow() {
  return (
    <svg
      className="hidden sm:block w-full h-dvh bg-base-200"
      viewBox="0 0 800 800"
      preserveAspectRatio="xMidYMid slice"
      aria-hidden="true"
    >
      <path
        d="M0 320 H300 C340 320 340 360 380 360 H460 C500 360 500 320 540 320 H800 V480 H540 C500 480 500 440 460 440 H380 C340 440 340 480 300 480 H0 Z"
        fill="var(--water)"
        opacity="0.85"
      />
      <path
        d="M0 320 H300 C340 320 340 360 380 360 H460 C500 360 500 320 540 320 H800 M0 480 H300 C340 480 340 440 380 440 H460 C500 440 500 480 540 480 H800"
        fill="none"
        stroke="var(--ink)"
        strokeWidth="6"
      />
      <path d="M420 350 V250 M420 450 V520" stroke="var(--ink)" strokeWidth="1.5" />
      <text x="420" y="240" textAnchor="middle" fontSize="22" fontWeight="600" fill="var(--ink)">
        what binds
      </text>
      {[60, 130, 200].map((x) => (
        <path key={x} d={`M${x} 400 h36 m-10 -7 l10 7 l-10 7`} stroke="var(--paper)" strokeWidth="2.5" fill="none" />
      ))}
      {[600, 670, 740].map((x) => (
        <path key={x} d={`M${x} 400 h36 m-10 -7 l10 7 l-10 7`} stroke="var(--paper)" strokeWidth="2.5" fill="none" />
      ))}
    </svg>
  );
}
