"use client";
import { CircleCheck, Clock4, Hand } from "lucide-react";
import { useState } from "react";
import { useWorkspace } from "@/components/draft/site-draft";
import { Button } from "@/components/kit/button";
import { useConventions } from "@/components/kit/conventions";
import { Dialog } from "@/components/kit/dialog";
import { NoteField } from "@/components/kit/fields";
import { Checkbox } from "@/components/kit/inputs";
import { Mark } from "@/components/kit/notice";
import { Scroller } from "@/components/kit/scroller";
import { Table } from "@/components/kit/table";
import { MOVED_WORDS, SEND_WORDS } from "@/components/words/order-words";
import type { AnswerRequest, ControllersStatus, ControllerStatus, NotedDifference } from "@/contracts/controllers";
import { CLOCK_OFF_S } from "@/core/field/controller-findings";
import type { useControllers } from "../../data/use-controllers";
import { useAgo } from "./other-end";

type There = ReturnType<typeof useControllers>;
/** What each controller holds against what Presa holds, item by item; three answers to each difference. */
export function SettingsPanel({
  status,
  answer,
  order,
}: {
  status: ControllersStatus;
  answer: There["answer"];
  order: There["order"];
}) {
  if (status.speaks !== "orders") return null;
  return (
    <>
      {status.controllers.length === 0 && <p>This site has no controller yet.</p>}
      {status.controllers.map((c) => (
        <ControllerPart key={c.id} controller={c} answer={answer} order={order} />
      ))}
    </>
  );
}

function ControllerPart({
  controller: c,
  answer,
  order,
}: {
  controller: ControllerStatus;
  answer: There["answer"];
  order: There["order"];
}) {
  const { canEdit } = useWorkspace("canEdit");
  const open = c.read?.differences.filter((d) => !d.noted).length ?? 0;
  return (
    <section aria-label={c.name} className="mb-6">
      <div className="flex flex-wrap items-baseline gap-x-4 border-b border-base-content pb-1">
        <h3 className="text-lg">{c.name}</h3>
        <HeldWords controller={c} open={open} />
        {c.send && <SendWords controller={c} />}
      </div>
      {c.read && Math.abs(c.read.clockOffS) > CLOCK_OFF_S && (
        <p className="mt-2 flex flex-wrap items-center gap-3">
          <span className="inline-flex items-center gap-1 font-semibold text-warning">
            <Clock4 className="size-4" aria-hidden /> Its clock is {offWords(c.read.clockOffS)}: everything starts{" "}
            {c.read.clockOffS > 0 ? "too early" : "too late"} by that.
          </span>
          {canEdit && <Button onClick={() => void order({ kind: "clock" })}>Set the clock right</Button>}
        </p>
      )}
      {c.read && <Lockouts held={c.read.lockouts} controllerId={c.id} order={order} />}
      {c.read && c.read.differences.length > 0 && (
        <Differences controller={c} differences={c.read.differences} answer={answer} />
      )}
    </section>
  );
}

function HeldWords({ controller: { read }, open }: { controller: ControllerStatus; open: number }) {
  const ago = useAgo();
  const { momentAt } = useConventions();
  if (!read) return <span className="text-warning">not read back yet: nobody knows what it holds</span>;
  const noted = read.differences.length - open;
  return (
    <>
      {open === 0 ? (
        <span className="inline-flex items-center gap-1">
          <CircleCheck className="size-4 text-success" aria-hidden /> holds what Presa holds
          {noted > 0 ? `, but for ${noted} left and noted` : ""}
        </span>
      ) : (
        <span className="font-semibold text-warning">
          {open} item{open === 1 ? "" : "s"} not as in Presa
        </span>
      )}
      <span className="text-faint" title={momentAt(read.at)}>
        read back {ago(read.at)}
      </span>
      {read.byHandAt && (
        <span className="inline-flex items-center gap-1 text-warning">
          <Hand className="size-4" aria-hidden /> someone set it at the controller, {momentAt(read.byHandAt)}
        </span>
      )}
    </>
  );
}

function SendWords({ controller: { send } }: { controller: ControllerStatus }) {
  const { momentAt } = useConventions();
  if (!send) return null;
  const bad = send.state === "failed" || send.state === "partly";
  return (
    <span className={bad ? "text-warning" : "text-faint"}>
      last send {momentAt(send.askedAt)} by {send.askedByName}: {SEND_WORDS[send.state]}
      {send.reason ? ` (${send.reason})` : ""}
    </span>
  );
}

/** What is locked out at one end only. */
function Lockouts({ held, controllerId, order }: { held: string[]; controllerId: string; order: There["order"] }) {
  const { draft, canEdit } = useWorkspace("draft", "canEdit");
  const all = [
    ...draft.stations
      .filter((s) => s.controllerId === controllerId)
      .map((s) => ({ ...s, name: `${s.number} ${s.name}` })),
    ...draft.mainlines,
    ...draft.pocs,
  ];
  const there = all.filter((e) => held.includes(e.id) && !e.lockedOut);
  const here = all.filter((e) => e.lockedOut && !held.includes(e.id) && draft.stations.some((s) => s.id === e.id));
  if (there.length + here.length === 0) return null;
  const names = (of: { name: string }[]): string => of.map((e) => e.name).join(", ");
  return (
    <ul className="mt-2">
      {there.length > 0 && (
        <li className="flex flex-wrap items-center gap-3">
          <Mark tone="caution">Locked out at the controller, not in Presa: {names(there)}</Mark>
          {canEdit && (
            <Button onClick={() => void order({ kind: "clear", ids: there.map((e) => e.id) })}>Free there</Button>
          )}
        </li>
      )}
      {here.length > 0 && (
        <li className="flex flex-wrap items-center gap-3">
          <Mark tone="caution">Locked out in Presa, not at the controller: {names(here)}</Mark>
          {canEdit && (
            <Button onClick={() => void order({ kind: "lock", ids: here.map((e) => e.id) })}>Lock out there</Button>
          )}
        </li>
      )}
    </ul>
  );
}

function Differences({
  controller,
  differences,
  answer,
}: {
  controller: ControllerStatus;
  differences: NotedDifference[];
  answer: There["answer"];
}) {
  const { version, canEdit } = useWorkspace("version", "canEdit");
  const [ticked, setTicked] = useState<string[]>([]);
  const [leaving, setLeaving] = useState(false);
  const paths = ticked.filter((p) => differences.some((d) => d.path === p));
  const all = paths.length === differences.length;
  const say = async (body: AnswerRequest): Promise<void> => {
    if (await answer(body)) {
      setTicked([]);
      setLeaving(false);
    }
  };
  return (
    <>
      <Scroller>
        <Table aria-label={`Differences at ${controller.name}`}>
          <thead>
            <tr>
              {canEdit && (
                <th className="w-8">
                  <Checkbox
                    aria-label="All of them"
                    checked={all}
                    onChange={() => setTicked(all ? [] : differences.map((d) => d.path))}
                  />
                </th>
              )}
              <th>What</th>
              <th>Presa holds</th>
              <th>Last sent</th>
              <th>The controller holds</th>
              <th>Who moved</th>
            </tr>
          </thead>
          <tbody>
            {differences.map((d) => (
              <tr key={d.path}>
                {canEdit && (
                  <td>
                    <Checkbox
                      aria-label={d.what}
                      checked={ticked.includes(d.path)}
                      onChange={(e) =>
                        setTicked(e.target.checked ? [...ticked, d.path] : ticked.filter((p) => p !== d.path))
                      }
                    />
                  </td>
                )}
                <td>{d.what}</td>
                <td className="font-semibold">{d.presa}</td>
                <td className="text-faint">{d.sent ?? "nothing"}</td>
                <td className="font-semibold">{d.controller}</td>
                <td>
                  {d.noted ? (
                    <span className="text-faint">
                      left, noted by {d.noted.by}: {d.noted.words}
                    </span>
                  ) : (
                    <span className={d.moved === "controller" || d.moved === "both" ? "text-warning" : ""}>
                      {MOVED_WORDS[d.moved]}
                    </span>
                  )}
                </td>
              </tr>
            ))}
          </tbody>
        </Table>
      </Scroller>
      {canEdit && (
        <div className="mt-2 flex flex-wrap items-center gap-2">
          <Button
            disabled={paths.length === 0}
            onClick={() => void say({ answer: "take", version, controllerId: controller.id, paths })}
          >
            Take the controller's
          </Button>
          <Button disabled={paths.length === 0} onClick={() => setLeaving(true)}>
            Leave it, noted…
          </Button>
          <span className="text-faint text-sm">
            {paths.length === 0 ? "Tick what to answer; Send puts Presa's there." : `${paths.length} ticked`}
          </span>
        </div>
      )}
      <LeaveDialog
        open={leaving}
        onClose={() => setLeaving(false)}
        onLeave={(words) => void say({ answer: "leave", controllerId: controller.id, paths, words })}
      />
    </>
  );
}

function LeaveDialog({
  open,
  onClose,
  onLeave,
}: {
  open: boolean;
  onClose: () => void;
  onLeave: (words: string) => void;
}) {
  const [words, setWords] = useState("");
  return (
    <Dialog title="Leave it as it is" open={open} onClose={onClose}>
      <p className="mb-2">
        It is shown as noted from now on, until either side changes it. The site's programs are planned by what Presa
        holds.
      </p>
      <NoteField label="Why" most={1000} value={words} onCommit={setWords} />
      <div className="mt-3">
        <Button rank="main" disabled={words.trim().length < 3} onClick={() => onLeave(words.trim())}>
          Leave it
        </Button>
      </div>
    </Dialog>
  );
}

function offWords(s: number): string {
  const minutes = Math.round(Math.abs(s) / 60);
  return `${minutes < 120 ? `${minutes} min` : `${Math.round(minutes / 6) / 10} h`} ${s > 0 ? "ahead" : "behind"}`;
}
