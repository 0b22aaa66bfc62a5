"use client";
import { Download, KeyRound } from "lucide-react";
import { useState } from "react";
import { useWorkspace } from "@/components/draft/site-draft";
import { Button } from "@/components/kit/button";
import { Dialog } from "@/components/kit/dialog";
import { Mark } from "@/components/kit/notice";
import { fileStem, saveText } from "@/components/kit/save-file";
import type { FieldStatus, GatewayKey } from "@/contracts/field";
import { PROTOCOL } from "@/core/field/messages";
import type { useField } from "../../data/use-field";

type Field = ReturnType<typeof useField>;
type Asking = "renew" | "end" | null;

/** Gives the site's gateway its account at the broker, a new one, or none. */
export function GatewayAccount({ status, act, setUp }: { status: FieldStatus } & Pick<Field, "act" | "setUp">) {
  const [asking, setAsking] = useState<Asking>(null);
  const [key, setKey] = useState<GatewayKey | null>(null);
  const { broker, gateway } = status;
  const fetchKey = async (): Promise<void> => {
    setAsking(null);
    setKey(await setUp());
  };
  return (
    <section className="border-t border-base-300 mt-4 pt-2" aria-label="Gateway's account">
      {gateway ? (
        <div className="flex flex-wrap items-center gap-3">
          <p>
            The gateway speaks as <code className="break-all">{gateway.account}</code>
            {broker && <> at {broker}</>}.
          </p>
          <Button onClick={() => setAsking("renew")}>New account…</Button>
          <Button onClick={() => setAsking("end")}>Stop listening…</Button>
        </div>
      ) : (
        <Button rank="main" disabled={broker === null} onClick={() => void fetchKey()}>
          <KeyRound className="size-4" aria-hidden /> Set up a gateway
        </Button>
      )}
      {broker === null && (
        <p className="mt-2">
          <Mark tone="caution">
            This installation has no broker for gateways. Whoever runs it sets one; until then no gateway can be heard.
          </Mark>
        </p>
      )}
      <Dialog title="A new account for this gateway" open={asking === "renew"} onClose={() => setAsking(null)}>
        <p className="mb-3">
          The gateway that uses the account it has now is cut off at once, and is heard again when it has the new one.
          What it said until then is kept.
        </p>
        <Button rank="main" onClick={() => void fetchKey()}>
          Make a new account
        </Button>
      </Dialog>
      <Dialog title="Listen to this gateway no more" open={asking === "end"} onClose={() => setAsking(null)}>
        <p className="mb-3">
          Its account is closed and it is cut off. What it said until now is kept; alarms of this site no longer come by
          themselves.
        </p>
        <Button
          rank="main"
          onClick={() => {
            setAsking(null);
            void act("DELETE", "");
          }}
        >
          Stop listening
        </Button>
      </Dialog>
      <Dialog title="What the gateway signs in with" open={key !== null} onClose={() => setKey(null)} wide>
        {key && <KeyShown of={key} />}
      </Dialog>
    </section>
  );
}

function KeyShown({ of }: { of: GatewayKey }) {
  const { draft } = useWorkspace("draft");
  const stem = fileStem(draft);
  const facts = {
    Broker: of.broker,
    Account: of.account,
    Password: of.password,
    Topics: `${PROTOCOL}/${of.account}/…`,
  };
  return (
    <>
      <p>
        <Mark tone="caution">
          The password is shown now and never again: Presa keeps none. One that is lost is replaced by a new account.
        </Mark>
      </p>
      <dl className="my-3 grid grid-cols-[max-content_1fr] gap-x-4 gap-y-1">
        {Object.entries(facts).map(([name, value]) => (
          <div key={name} className="contents">
            <dt className="text-faint">{name}</dt>
            <dd>
              <code className="break-all select-all">{value}</code>
            </dd>
          </div>
        ))}
      </dl>
      <p className="mb-3 max-w-prose">
        A gateway that plays this site ships with Presa. Export the site, save this file beside it, then
        <code className="block">
          bin/gateway {stem}.presa.json --key {stem}.key.json
        </code>
      </p>
      <Button
        rank="main"
        onClick={() => saveText(`${JSON.stringify(of, null, 2)}\n`, `${stem}.key.json`, "application/json")}
      >
        <Download className="size-4" aria-hidden /> Save as a file
      </Button>
    </>
  );
}
