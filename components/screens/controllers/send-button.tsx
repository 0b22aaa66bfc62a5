"use client";
import { Send } from "lucide-react";
import { useState } from "react";
import { Button } from "@/components/kit/button";
import { Dialog } from "@/components/kit/dialog";
import { TickField } from "@/components/kit/fields";
import { Mark } from "@/components/kit/notice";
import type { ControllersStatus } from "@/contracts/controllers";

const SHOWN = 12;

/** Sends what Presa holds to the controllers that are ticked, after saying what changes there. */
export function SendButton({
  status,
  unsaved,
  send,
}: {
  status: ControllersStatus;
  unsaved: boolean;
  send: (controllerIds: string[]) => Promise<boolean>;
}) {
  const [open, setOpen] = useState(false);
  const differ = status.controllers.filter((c) => c.read === null || c.read.differences.length > 0);
  const [ticked, setTicked] = useState<string[]>([]);
  const begin = (): void => {
    setTicked(differ.map((c) => c.id));
    setOpen(true);
  };
  const go = async (): Promise<void> => {
    if (await send(ticked)) setOpen(false);
  };
  return (
    <>
      <Button
        rank="main"
        icon={Send}
        disabled={unsaved}
        title={unsaved ? "Save or discard what is not saved first" : undefined}
        onClick={begin}
      >
        Send…
      </Button>
      <Dialog title="Send to the controllers" open={open} onClose={() => setOpen(false)} wide>
        <p className="mb-3 max-w-prose">
          Each controller takes all of it at once, in its own steps, or says item by item what it cannot do. Until it
          has the whole, it goes on with what it holds. What is locked out stays so.
        </p>
        {status.state !== "live" && (
          <p className="mb-2">
            <Mark tone="caution">The gateway is silent now: the settings wait until it is heard.</Mark>
          </p>
        )}
        {status.controllers.map((c) => {
          const changes = c.read?.differences ?? [];
          return (
            <section key={c.id} aria-label={c.name} className="border-t border-base-300 py-2">
              <TickField
                label={`${c.name}: ${c.read ? changesWords(changes.length) : "not read back yet, so nobody knows what changes there"}`}
                checked={ticked.includes(c.id)}
                onCommit={(on) => setTicked(on ? [...ticked, c.id] : ticked.filter((id) => id !== c.id))}
              />
              {changes.length > 0 && (
                <ul className="ml-7 text-sm">
                  {changes.slice(0, SHOWN).map((d) => (
                    <li key={d.path}>
                      {d.what}: {d.controller} <span aria-hidden>→</span>
                      <span className="sr-only">becomes</span> <strong>{d.presa}</strong>
                    </li>
                  ))}
                  {changes.length > SHOWN && <li className="text-faint">and {changes.length - SHOWN} more</li>}
                </ul>
              )}
            </section>
          );
        })}
        <div className="mt-3 flex gap-2">
          <Button rank="main" icon={Send} disabled={ticked.length === 0} onClick={() => void go()}>
            Send to {ticked.length} controller{ticked.length === 1 ? "" : "s"}
          </Button>
          <Button onClick={() => setOpen(false)}>Not now</Button>
        </div>
      </Dialog>
    </>
  );
}

const changesWords = (n: number): string =>
  n === 0 ? "holds all of it already" : `${n} item${n === 1 ? "" : "s"} change there`;
