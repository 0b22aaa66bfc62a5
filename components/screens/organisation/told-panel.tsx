"use client";
import { PlugZap, Trash2 } from "lucide-react";
import { useState } from "react";
import { useTold } from "@/components/data/use-telling";
import { Letters } from "@/components/frame/letters";
import { Button } from "@/components/kit/button";
import { classes } from "@/components/kit/classes";
import { useConventions } from "@/components/kit/conventions";
import { Input } from "@/components/kit/inputs";
import { Problem } from "@/components/kit/notice";
import { OnceTold } from "@/components/kit/once-told";
import { Section } from "@/components/kit/section";
import { Table } from "@/components/kit/table";
import type { WebhookAction, WebhookCallView, WebhookView } from "@/contracts/telling";

/** Letters that were not sent, and other systems that are told of alarms. */
export function ToldPanel() {
  const { view, problem, add, act, remove } = useTold();
  const [url, setUrl] = useState("");
  const failed = problem ?? add.error?.message ?? act.error?.message ?? remove.error?.message;
  if (!view) return failed ? <Problem>{failed}</Problem> : <p role="status">Looking up what was told…</p>;
  const busy = add.isPending || act.isPending || remove.isPending;
  return (
    <>
      {failed && <Problem className="mb-2">{failed}</Problem>}
      <Section id="letters" title="Letters">
        <p className="mb-2 max-w-prose">
          {view.mail
            ? "Each person chooses under Your account what they are told by mail. What could not be sent stands here."
            : "No mail server is set up here, so nobody is written to. Whoever runs this Presa sets PRESA_SMTP_URL."}
        </p>
        {view.stuck.length === 0 ? (
          <p className="text-faint">None is stuck.</p>
        ) : (
          <Letters label="Letters that were not sent" letters={view.stuck} withTo />
        )}
      </Section>
      <Section id="webhooks" title="Other systems">
        <p className="mb-2 max-w-prose">
          A system of your own is told of every alarm of a site itself as it is raised, acknowledged, cleared and opened
          again: a signed call with the alarm as JSON (docs/webhooks.md), tried again with growing waits.
        </p>
        {view.webhooks.map((w) => (
          <Webhook
            key={w.id}
            webhook={w}
            busy={busy}
            onAct={(action) => act.mutate({ id: w.id, action })}
            onRemove={() => remove.mutate(w.id)}
          />
        ))}
        {add.data?.secret && (
          <OnceTold label="Secret of the webhook" text={add.data.secret}>
            Its secret, with which the other system checks that a call is ours. It is told only now.
          </OnceTold>
        )}
        <form
          className="mt-3 flex flex-wrap gap-2"
          onSubmit={(e) => {
            e.preventDefault();
            add.mutate(url.trim(), { onSuccess: () => setUrl("") });
          }}
        >
          <Input
            className="w-96 max-w-full"
            type="url"
            aria-label="Address of the other system"
            placeholder="https://"
            value={url}
            onChange={(e) => setUrl(e.target.value)}
          />
          <Button type="submit" icon={PlugZap} disabled={busy || url.trim() === ""}>
            Tell this system
          </Button>
        </form>
      </Section>
    </>
  );
}

function Webhook({
  webhook: w,
  busy,
  onAct,
  onRemove,
}: {
  webhook: WebhookView;
  busy: boolean;
  onAct: (action: WebhookAction) => void;
  onRemove: () => void;
}) {
  const { here } = useConventions();
  return (
    <article aria-label={w.url} className="mb-3 border-b border-base-300 pb-3">
      <div className="flex flex-wrap items-center gap-2">
        <span className={classes("grow font-semibold break-all", !w.enabled && "text-faint")}>
          {w.url}
          {!w.enabled && " (off)"}
        </span>
        <Button rank="quiet" disabled={busy} onClick={() => onAct("trial")}>
          Call it to try
        </Button>
        {w.calls.some((c) => c.state === "failed") && (
          <Button rank="quiet" disabled={busy} onClick={() => onAct("again")}>
            Call again what was given up
          </Button>
        )}
        <Button rank="quiet" disabled={busy} onClick={() => onAct(w.enabled ? "off" : "on")}>
          {w.enabled ? "Turn off" : "Turn on"}
        </Button>
        <Button rank="quiet" icon={Trash2} disabled={busy} onClick={onRemove} aria-label={`Take out ${w.url}`}>
          Take out
        </Button>
      </div>
      <p className="text-xs text-faint">made by {w.madeBy}</p>
      {w.calls.length > 0 && (
        <Table aria-label={`Newest calls of ${w.url}`}>
          <tbody>
            {w.calls.map((c) => (
              <tr key={c.id}>
                <td className="whitespace-nowrap">{here(c.madeAt)}</td>
                <td>{c.event}</td>
                <td className={c.state === "done" ? "" : "text-error"}>{callWords(c, here)}</td>
              </tr>
            ))}
          </tbody>
        </Table>
      )}
    </article>
  );
}

function callWords(c: WebhookCallView, here: (instant: string) => string): string {
  if (c.state === "done") return `taken, ${c.status}`;
  if (c.problem === null) return "on its way";
  if (c.state === "failed") return `${c.problem} Given up after ${c.tries} tries.`;
  return `${c.problem} Tried again ${here(c.nextAt)}.`;
}
