"use client";
import { Cable, ClipboardPaste, PencilLine } from "lucide-react";
import { useState } from "react";
import type { useControllers } from "@/components/data/use-controllers";
import { useDue } from "@/components/data/use-visits";
import { useValveChecks } from "@/components/data/use-valve-checks";
import { useWorkspace } from "@/components/draft/site-draft";
import { Button } from "@/components/kit/button";
import { useConventions } from "@/components/kit/conventions";
import { ChoiceField } from "@/components/kit/fields";
import { Caution, Problem } from "@/components/kit/notice";
import { fileStem } from "@/components/kit/save-file";
import { Segments } from "@/components/kit/segments";
import { TakenAway } from "@/components/kit/taken-away";
import { ORDER_STATE } from "@/components/words/order-words";
import { valveCheckCsv } from "@/components/words/record-csv";
import type { ControllersStatus } from "@/contracts/controllers";
import type { ValveCheck } from "@/contracts/valve-checks";
import { CHECK_UNITS, type CheckReading, type CheckUnit, checkLines } from "@/core/wiring/valve-check";
import { CheckTable } from "./check-table";
import { PasteForm, TypeForm } from "./entry-forms";

const UNIT_WORDS: Record<CheckUnit, string> = { mA: "current, mA", ohm: "resistance, Ω" };
const HOW_WORDS: Record<ValveCheck["how"], string> = {
  typed: "typed in",
  pasted: "pasted",
  gateway: "by the controller",
};

/** All valves of a controller in turn by wire: asked of it, typed in or pasted; what each figure means, and what changed since last time. */
export function ValveCheckPanel({
  status,
  order,
}: {
  status: ControllersStatus;
  order: ReturnType<typeof useControllers>["order"];
}) {
  const { siteId, draft, canEdit } = useWorkspace("siteId", "draft", "canEdit");
  const { momentAt } = useConventions();
  const [controllerId, setController] = useState(draft.controllers[0]?.id ?? "");
  const [unit, setUnit] = useState<CheckUnit>("mA");
  const [entering, setEntering] = useState<"typed" | "pasted" | null>(null);
  const [chosen, setChosen] = useState("");
  const asked = status.orders.find((o) => o.what.kind === "check" && o.what.controllerId === controllerId);
  const { checks, problem, keep } = useValveChecks(siteId, asked?.answeredAt ?? null);
  if (draft.controllers.length === 0) return <p>This site has no controller yet.</p>;
  if (problem) return <Problem>{problem}</Problem>;
  if (!checks) return <p role="status">Looking up the checks…</p>;
  const mine = checks.filter((c) => c.controllerId === controllerId && c.unit === unit);
  const at = Math.max(
    0,
    mine.findIndex((c) => c.id === chosen),
  );
  const [shown, before] = [mine[at], mine[at + 1]];
  const lines = shown ? checkLines(draft, controllerId, unit, shown.readings, before?.readings ?? []) : [];
  const onKeep = (how: "typed" | "pasted", readings: CheckReading[]): void =>
    keep.mutate(
      { id: crypto.randomUUID(), controllerId, at: new Date().toISOString(), how, unit, readings },
      {
        onSuccess: () => {
          setEntering(null);
          setChosen("");
        },
      },
    );
  return (
    <div className="grid max-w-6xl gap-4">
      <div className="flex flex-wrap items-end gap-3">
        {draft.controllers.length > 1 && (
          <ChoiceField
            label="Controller"
            value={controllerId}
            options={draft.controllers.map((c) => [c.id, c.name] as const)}
            onCommit={setController}
          />
        )}
        <Segments
          label="What is measured"
          options={CHECK_UNITS.map((id) => ({ id, label: UNIT_WORDS[id] }))}
          at={unit}
          onChange={setUnit}
        />
        {canEdit && (
          <>
            {status.speaks === "orders" && (
              <Button
                rank="main"
                icon={Cable}
                disabled={asked?.state === "waiting"}
                onClick={() => {
                  setUnit("mA");
                  void order({ kind: "check", controllerId });
                }}
              >
                Ask the controller
              </Button>
            )}
            <Button icon={PencilLine} aria-expanded={entering === "typed"} onClick={() => setEntering("typed")}>
              Type in
            </Button>
            <Button icon={ClipboardPaste} aria-expanded={entering === "pasted"} onClick={() => setEntering("pasted")}>
              Paste
            </Button>
          </>
        )}
      </div>
      {asked && asked.state !== "done" && (
        <p role="status" className={asked.state === "waiting" ? "" : "text-warning"}>
          Asked by {asked.askedByName}, {momentAt(asked.askedAt)}: {ORDER_STATE[asked.state]}
          {asked.reason ? `: ${asked.reason}` : ""}
        </p>
      )}
      {canEdit && (
        <Caution>
          {status.speaks === "orders" ? "Asked, each valve is switched on for a moment and some water flows. " : ""}
          Resistance is measured with the wires off and the controller switched off.
        </Caution>
      )}
      <Battery controllerId={controllerId} />
      {entering === "typed" && (
        <TypeForm
          key={`${controllerId} ${unit}`}
          controllerId={controllerId}
          unit={unit}
          busy={keep.isPending}
          onKeep={(r) => onKeep("typed", r)}
          onLeave={() => setEntering(null)}
        />
      )}
      {entering === "pasted" && (
        <PasteForm
          controllerId={controllerId}
          unit={unit}
          busy={keep.isPending}
          onKeep={(r) => onKeep("pasted", r)}
          onLeave={() => setEntering(null)}
        />
      )}
      {keep.error && <Problem>{keep.error.message}</Problem>}
      {shown ? (
        <>
          <div className="flex flex-wrap items-end gap-3">
            <ChoiceField
              label="Check of"
              value={shown.id}
              options={mine.map((c) => [c.id, `${momentAt(c.at)}, ${c.by}, ${HOW_WORDS[c.how]}`] as const)}
              onCommit={setChosen}
              className="min-w-72"
            />
            <p className="pb-1 text-faint">
              {before ? `beside that of ${momentAt(before.at)}` : "the first of this controller in this unit"}
            </p>
          </div>
          <CheckTable lines={lines} unit={unit} />
          <div className="flex">
            <TakenAway csv={() => valveCheckCsv(lines, unit)} name={`${fileStem(draft)}-valves`} />
          </div>
        </>
      ) : (
        <p className="text-faint">No check of this controller in {unit === "mA" ? "milliamperes" : "ohms"} yet.</p>
      )}
    </div>
  );
}

/** A controller that runs on a battery: when it was changed last, and by whom. */
function Battery({ controllerId }: { controllerId: string }) {
  const { siteId, draft } = useWorkspace("siteId", "draft");
  const { date } = useConventions();
  const { view } = useDue(siteId);
  const onBattery = draft.controllers.some((c) => c.id === controllerId && c.powered === "battery");
  if (!onBattery || !view) return null;
  const done = view.done.find((d) => d.duty === "battery" && d.subjectId === controllerId);
  const due = view.due.find((d) => d.duty === "battery" && d.subjectId === controllerId);
  return (
    <p>
      It runs on its battery: {done ? `changed ${date(done.on)} by ${done.by}` : "nobody has noted when it was changed"}
      {due ? `, due ${date(due.on)}` : ""}.{" "}
      <a className="link" href={`/sites/${siteId}/log?view=todo`}>
        Note a change
      </a>
    </p>
  );
}
