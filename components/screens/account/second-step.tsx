"use client";
import { zodResolver } from "@hookform/resolvers/zod";
import { QRCodeSVG } from "qrcode.react";
import { useId, useState } from "react";
import { useForm } from "react-hook-form";
import { z } from "zod";
import type { useAccount } from "@/components/data/use-account";
import { Button } from "@/components/kit/button";
import { Labelled } from "@/components/kit/fields";
import { Input } from "@/components/kit/inputs";
import { Problem } from "@/components/kit/notice";
import { OnceTold } from "@/components/kit/once-told";
import { type AccountView, ownPassword } from "@/contracts/people";
import { PasswordAsked } from "./password-asked";

type Step = ReturnType<typeof useAccount>["secondStep"];
const QR_PX = 180;

/** A code of the phone beside the password, and what gets past it when the phone is lost. */
export function SecondStep({ view, step }: { view: AccountView; step: Step }) {
  const [codes, setCodes] = useState<string[] | null>(null);
  const [asks, setAsks] = useState<"off" | "codes" | null>(null);
  const { begin, confirm, end, otherCodes } = step;
  return (
    <>
      {codes && <Codes codes={codes} />}
      {view.twoFactor ? (
        <>
          <p className="mb-3 max-w-prose">
            Set up: signing in takes a code of your authenticator too. {view.recoveryCodesLeft} recovery codes are left.
          </p>
          <div className="flex flex-wrap gap-2">
            <Button onClick={() => setAsks("codes")}>New recovery codes…</Button>
            <Button rank="danger" onClick={() => setAsks("off")}>
              Take the second step off…
            </Button>
          </div>
        </>
      ) : (
        <>
          <p className="mb-3 max-w-prose">
            With a second step nobody gets in with your password alone: signing in takes a code that an authenticator on
            your phone shows.
          </p>
          {begin.data ? (
            <Confirm
              begun={begin.data}
              busy={confirm.isPending}
              problem={confirm.error?.message ?? null}
              onConfirm={async (code) => {
                const { recoveryCodes } = await confirm.mutateAsync(code);
                begin.reset();
                setCodes(recoveryCodes);
              }}
            />
          ) : (
            <Button onClick={() => begin.mutate()} disabled={begin.isPending}>
              Set up a second step
            </Button>
          )}
          {begin.error && <Problem>{begin.error.message}</Problem>}
        </>
      )}
      <PasswordAsked
        title={asks === "off" ? "Take the second step off" : "New recovery codes"}
        open={asks !== null}
        onClose={() => setAsks(null)}
        form={ownPassword}
        act={asks === "off" ? "Take it off" : "Make new codes"}
        danger={asks === "off"}
        onPassword={async ({ password }) => {
          if (asks === "off") await end.mutateAsync(password);
          else setCodes((await otherCodes.mutateAsync(password)).recoveryCodes);
          if (asks === "off") setCodes(null);
          setAsks(null);
        }}
      >
        {asks === "off"
          ? "From then on your password alone lets anybody in."
          : "Those you have now are worth nothing from then on."}
      </PasswordAsked>
    </>
  );
}

const codeForm = z.object({ code: z.string().regex(/^\s*\d{3}\s?\d{3}\s*$/, "takes the six figures that it shows") });

function Confirm({
  begun,
  busy,
  problem,
  onConfirm,
}: {
  begun: { uri: string; secret: string };
  busy: boolean;
  problem: string | null;
  onConfirm: (code: string) => Promise<void>;
}) {
  const id = useId();
  const {
    register,
    handleSubmit,
    formState: { errors },
  } = useForm<{ code: string }>({ resolver: zodResolver(codeForm), defaultValues: { code: "" } });
  return (
    <form
      onSubmit={handleSubmit(({ code }) => onConfirm(code).catch(() => {}))}
      noValidate
      className="flex flex-wrap items-start gap-6"
    >
      <div className="bg-white p-3">
        <QRCodeSVG value={begun.uri} size={QR_PX} title="To be read by an authenticator" />
      </div>
      <div className="flex max-w-sm flex-col gap-3">
        <p>
          Read the picture with an authenticator, or type <code className="break-all">{begun.secret}</code>. Then write
          what it shows.
        </p>
        <Labelled id={`${id}code`} label="Code" error={errors.code?.message ?? null} className="w-40">
          <Input
            id={`${id}code`}
            inputMode="numeric"
            autoComplete="one-time-code"
            aria-invalid={errors.code !== undefined}
            {...register("code")}
          />
        </Labelled>
        {problem && <Problem>{problem}</Problem>}
        <Button type="submit" rank="main" className="self-start" disabled={busy}>
          Confirm
        </Button>
      </div>
    </form>
  );
}

function Codes({ codes }: { codes: string[] }) {
  return (
    <div className="mb-4">
      <OnceTold label="Recovery codes" text={codes.join(" ")}>
        Your recovery codes, each of which gets you in once without the phone. They are shown only now: print them, or
        keep them where you keep passwords.
      </OnceTold>
      <ul className="grid w-fit grid-cols-2 gap-x-8 pl-3 font-semibold tabular-nums">
        {codes.map((c) => (
          <li key={c}>{c}</li>
        ))}
      </ul>
    </div>
  );
}
