"use client";
import { zodResolver } from "@hookform/resolvers/zod";
import { useRouter } from "next/navigation";
import { useEffect, useId, useState } from "react";
import { useForm } from "react-hook-form";
import { z } from "zod";
import { request } from "@/components/data/request";
import { useAccount } from "@/components/data/use-account";
import { PageHead } from "@/components/frame/page-head";
import { Button } from "@/components/kit/button";
import { useConventions, useLanguage } from "@/components/kit/conventions";
import { Dialog } from "@/components/kit/dialog";
import { Labelled } from "@/components/kit/fields";
import { Input } from "@/components/kit/inputs";
import { Problem } from "@/components/kit/notice";
import { Scroller } from "@/components/kit/scroller";
import { Section } from "@/components/kit/section";
import { Segments } from "@/components/kit/segments";
import { Table } from "@/components/kit/table";
import {
  language as languageChoices,
  type Language,
  LANGUAGE_WORDS,
  LEAST_PASSWORD,
  newPassword,
  personName,
  type SessionView,
} from "@/contracts/people";
import { ROLE_WORDS } from "@/contracts/roles";
import { SecondStep } from "./second-step";
import { ToldByMail } from "./told-by-mail";

/** One's own account: name, password, second step, where one is signed in, and leaving. */
export function AccountScreen({ who }: { who: string }) {
  const { view, problem, rename, changePassword, endSession, endOthers, leave, secondStep } = useAccount();
  const [leaving, setLeaving] = useState(false);
  return (
    <>
      <PageHead title="Your account" who={who} about={view?.email} />
      <main className="px-4 pb-6 max-w-4xl">
        {problem && <Problem>{problem}</Problem>}
        {view && (
          <>
            <Section id="name" title="Name">
              <p className="mb-2 text-faint">
                {view.role} of {view.organisation}: {ROLE_WORDS[view.role]}.
              </p>
              <NameForm name={view.name} busy={rename.isPending} onName={(name) => rename.mutate(name)} />
              {rename.error && <Problem>{rename.error.message}</Problem>}
            </Section>
            <Section id="dates" title="Language">
              <DatesIn />
            </Section>
            <Section id="password" title="Password">
              <PasswordForm onChange={(asked) => changePassword.mutateAsync(asked)} />
            </Section>
            <Section id="second-step" title="Second step">
              <SecondStep view={view} step={secondStep} />
            </Section>
            <Section id="told" title="What you are told">
              <ToldByMail />
            </Section>
            <Section id="sessions" title="Where you are signed in">
              <Sessions sessions={view.sessions} onEnd={(id) => endSession.mutate(id)} />
              <p className="mt-2 text-faint">
                A phone whose session is ended forgets at its next contact what it holds, unsent entries too.
              </p>
              {view.sessions.length > 2 && (
                <Button className="mt-2" onClick={() => endOthers.mutate()} disabled={endOthers.isPending}>
                  End all but this one
                </Button>
              )}
              {endSession.error && <Problem>{endSession.error.message}</Problem>}
            </Section>
            <Section id="leave" title="Leave">
              <p className="mb-3 max-w-prose">
                What you did stays in every log under your name. A manager can invite you again.
              </p>
              <Button rank="danger" onClick={() => setLeaving(true)}>
                Leave {view.organisation}…
              </Button>
            </Section>
            <Dialog title={`Leave ${view.organisation}`} open={leaving} onClose={() => setLeaving(false)}>
              <p className="mb-3">You are signed out everywhere at once and cannot sign in any more.</p>
              {leave.error && <Problem className="mb-3">{leave.error.message}</Problem>}
              <Button rank="danger" onClick={() => leave.mutate()} disabled={leave.isPending}>
                Leave
              </Button>
            </Dialog>
          </>
        )}
      </main>
    </>
  );
}

/** Kept with the browser for its first paint, and with the person wherever they sign in. */
function DatesIn() {
  const router = useRouter();
  const language = useLanguage();
  const { date } = useConventions();
  const [problem, setProblem] = useState<string | null>(null);
  const read = (next: Language): void => {
    setProblem(null);
    request("PATCH", "/api/account", { language: next })
      .then(() => {
        // biome-ignore lint/suspicious/noDocumentCookie: the cookie store is not in every browser, and the server reads this one
        document.cookie = `presa_language=${next}; path=/; max-age=31536000; samesite=lax`;
        router.refresh();
      })
      .catch((error: Error) => setProblem(error.message));
  };
  return (
    <>
      <Segments
        label="Language of the field, and of dates"
        options={languageChoices.options.map((id) => ({ id, label: LANGUAGE_WORDS[id] }))}
        at={language}
        onChange={read}
      />
      <p className="mt-2 text-faint">
        The pages for the field are in it, and dates everywhere: as in {date("2026-11-26")}. Their order follows each
        site's units.
      </p>
      {problem && <Problem>{problem}</Problem>}
    </>
  );
}

const nameForm = z.object({ name: personName });

function NameForm({ name, busy, onName }: { name: string; busy: boolean; onName: (name: string) => void }) {
  const id = useId();
  const {
    register,
    handleSubmit,
    reset,
    formState: { errors, isDirty },
  } = useForm<{ name: string }>({ resolver: zodResolver(nameForm), defaultValues: { name } });
  useEffect(() => reset({ name }), [name, reset]);
  return (
    <form onSubmit={handleSubmit((v) => onName(v.name))} noValidate className="flex flex-wrap items-start gap-3">
      <Labelled id={id} label="As others see it" error={errors.name?.message ?? null} className="w-72">
        <Input id={id} autoComplete="name" aria-invalid={errors.name !== undefined} {...register("name")} />
      </Labelled>
      <Button type="submit" className="mt-4" disabled={!isDirty || busy}>
        Keep
      </Button>
    </form>
  );
}

const passwordForm = z.object({
  current: z.string().min(1, "Your present password is needed."),
  password: newPassword,
});
type Passwords = z.infer<typeof passwordForm>;

function PasswordForm({ onChange }: { onChange: (asked: Passwords) => Promise<unknown> }) {
  const id = useId();
  const [said, setSaid] = useState<{ done: boolean; words: string } | null>(null);
  const {
    register,
    handleSubmit,
    reset,
    formState: { errors, isSubmitting },
  } = useForm<Passwords>({ resolver: zodResolver(passwordForm), defaultValues: { current: "", password: "" } });
  const submit = async (asked: Passwords): Promise<void> => {
    setSaid(null);
    try {
      await onChange(asked);
      reset();
      setSaid({ done: true, words: "Changed. Wherever else you were signed in, you are signed out." });
    } catch (error) {
      setSaid({ done: false, words: error instanceof Error ? error.message : String(error) });
    }
  };
  return (
    <form onSubmit={handleSubmit(submit)} noValidate>
      <div className="flex flex-wrap items-start gap-3">
        <Labelled id={`${id}current`} label="The present one" error={errors.current?.message ?? null} className="w-72">
          <Input
            id={`${id}current`}
            type="password"
            autoComplete="current-password"
            aria-invalid={errors.current !== undefined}
            {...register("current")}
          />
        </Labelled>
        <Labelled
          id={`${id}next`}
          label="The new one"
          hint={`At least ${LEAST_PASSWORD} characters`}
          error={errors.password?.message ?? null}
          className="w-72"
        >
          <Input
            id={`${id}next`}
            type="password"
            autoComplete="new-password"
            aria-invalid={errors.password !== undefined}
            {...register("password")}
          />
        </Labelled>
        <Button type="submit" className="mt-4" disabled={isSubmitting}>
          Change the password
        </Button>
      </div>
      {said?.done && <p role="status">{said.words}</p>}
      {said && !said.done && <Problem>{said.words}</Problem>}
    </form>
  );
}

function Sessions({ sessions, onEnd }: { sessions: SessionView[]; onEnd: (id: string) => void }) {
  const { here } = useConventions();
  return (
    <Scroller>
      <Table aria-label="Sessions">
        <thead>
          <tr>
            <th>With</th>
            <th>From</th>
            <th>Since</th>
            <th>Last used</th>
            <th>
              <span className="sr-only">What to do</span>
            </th>
          </tr>
        </thead>
        <tbody>
          {sessions.map((s) => (
            <tr key={s.id}>
              <td>
                {/Mobi/i.test(s.agent ?? "") ? "a phone" : "a computer"}
                {/* What the browser says of itself helps to tell one's own apart. */}
                <div className="max-w-72 truncate text-xs text-faint" title={s.agent ?? undefined}>
                  {s.agent}
                </div>
              </td>
              <td>{s.address ?? ""}</td>
              <td className="whitespace-nowrap">{here(s.madeAt)}</td>
              <td className="whitespace-nowrap">{s.here ? "this one" : here(s.seenAt)}</td>
              <td className="text-right">
                {!s.here && (
                  <Button rank="quiet" onClick={() => onEnd(s.id)}>
                    End it
                  </Button>
                )}
              </td>
            </tr>
          ))}
        </tbody>
      </Table>
    </Scroller>
  );
}
