"use client";
import { useLiveJudge } from "@/components/data/use-taught-sets";
import { stationName } from "@/core/site-file/station-name";
import { CircleStop, Play, Power, SkipForward } from "lucide-react";
import { useMemo, useState } from "react";
import { useField } from "@/components/data/use-field";
import { useWorkspace } from "@/components/draft/site-draft";
import { Button } from "@/components/kit/button";
import { useConventions } from "@/components/kit/conventions";
import { DateField } from "@/components/kit/date-field";
import { ChoiceField, NumberField } from "@/components/kit/fields";
import { Caution } from "@/components/kit/notice";
import { ORDER_STATE, orderWords } from "@/components/words/order-words";
import type { ControllersStatus } from "@/contracts/controllers";
import { addDays, localDate } from "@/core/dates/wall-time";
import { totalLpm } from "@/core/field/messages";
import type { Order } from "@/core/field/orders";
import { ceilingAbove, waterworks } from "@/core/network/waterworks";
import { expectedFlow } from "@/core/site-file/expected-flow";
import type { useControllers } from "../../data/use-controllers";

/** What a hose usually takes where gallons are counted, L/min. */
const TEN_GPM = 37.854;
type Ask = ReturnType<typeof useControllers>["order"];

/** Runs through the gateway: one-handed on a phone, with the reading beside it, second by second. */
export function RunPanel({ status, order }: { status: ControllersStatus; order: Ask }) {
  const { canEdit, draft } = useWorkspace("canEdit", "draft");
  const last = status.orders.find((o) => o.what.kind !== "read");
  if (status.speaks !== "orders") return null;
  return (
    <div className="grid gap-x-8 gap-y-4 lg:grid-cols-[minmax(0,1fr)_minmax(0,1fr)] lg:grid-rows-[auto_1fr]">
      <div className="min-w-0">
        <Now order={canEdit ? order : null} />
        {last && (
          <p role="status" className="mb-3">
            <span className="text-faint">Last asked by {last.askedByName}:</span> {orderWords(draft, last.what)},{" "}
            <strong className={last.state === "refused" || last.state === "expired" ? "text-warning" : ""}>
              {ORDER_STATE[last.state]}
            </strong>
            {last.reason ? `: ${last.reason}` : ""}
          </p>
        )}
      </div>
      {canEdit && (
        <div className="min-w-0 lg:row-span-2">
          <Caution>
            A valve opens where people may stand: nobody in a valve box, a vault or a pump house, and no pump against a
            closed valve. Each run ends by itself; local rules and licensed practice come first.
          </Caution>
          <StationForm order={order} />
          <ProgramForm order={order} />
          <WalkForm order={order} />
          <HandForm order={order} />
        </div>
      )}
      {canEdit && <OffForm order={order} />}
    </div>
  );
}

/** What runs, against what should flow; the two buttons that end it. */
function Now({ order }: { order: Ask | null }) {
  const { draft } = useWorkspace("draft");
  const { quantity } = useConventions();
  const { status, reading } = useField();
  const { judge, known } = useLiveJudge();
  const open = reading?.open ?? status?.open ?? [];
  const at = reading?.at ?? status?.stream?.lastAt ?? null;
  const total = reading ? totalLpm(reading.flow) : (status?.rows.at(-1)?.readingLpm ?? 0);
  const band = at === null ? null : judge.band(open, Date.parse(at) / 1000);
  const names = open.map((id) => stationName(draft, id));
  const age = at === null ? null : Math.max(0, Math.round((Date.now() - Date.parse(at)) / 1000));
  return (
    <section aria-label="Now" className="mb-4 border-y-2 border-base-content py-2">
      <p className="text-lg" aria-live="polite">
        {names.length === 0 ? "Nothing is open." : <strong>{names.join(", ")}</strong>}
      </p>
      <p className="mb-2">
        reads <strong>{quantity(total, "flow")}</strong>
        {band && (
          <>
            {" "}
            of {quantity(band.expectedLpm, "flow")} expected{known(open)}; trips above {quantity(band.highLpm, "flow")}
          </>
        )}
        {age !== null && age > 5 && <span className="text-faint">, read {ageWords(age)} ago</span>}
      </p>
      {order && (
        <div className="flex flex-wrap gap-2">
          <Button className="min-h-11" icon={SkipForward} onClick={() => void order({ kind: "skip" })}>
            Skip to the next
          </Button>
          <Button rank="danger" className="min-h-11" icon={CircleStop} onClick={() => void order({ kind: "stop" })}>
            Stop everything
          </Button>
        </div>
      )}
    </section>
  );
}

function ageWords(s: number): string {
  if (s < 120) return `${s} s`;
  return s < 7200 ? `${Math.round(s / 60)} min` : `${Math.round(s / 3600)} h`;
}

function Form({ title, children }: { title: string; children: React.ReactNode }) {
  return (
    <section aria-label={title} className="mb-4 border-t border-base-300 pt-2">
      <h3 className="mb-1 font-semibold">{title}</h3>
      <div className="flex flex-wrap items-end gap-3">{children}</div>
    </section>
  );
}

function Go({ label, disabled, onGo }: { label: string; disabled?: boolean; onGo: () => void }) {
  return (
    <Button className="min-h-11" icon={Play} disabled={disabled} onClick={onGo}>
      {label}
    </Button>
  );
}

/** How long, min; an empty field leaves it as it was. */
function MinutesField({
  onCommit,
  ...rest
}: {
  label: string;
  min: number;
  max: number;
  value: number;
  onCommit: (minutes: number) => void;
}) {
  return (
    <div className="w-28">
      <NumberField unit="min" required onCommit={(v) => v !== undefined && onCommit(v)} {...rest} />
    </div>
  );
}

function StationForm({ order }: { order: Ask }) {
  const { draft } = useWorkspace("draft");
  const { quantity } = useConventions();
  const [id, setId] = useState(draft.stations[0]?.id ?? "");
  const [minutes, setMinutes] = useState(5);
  const station = draft.stations.find((s) => s.id === id);
  const flow = station ? (expectedFlow(station)?.lpm ?? null) : null;
  const ceiling = useMemo(() => {
    const w = waterworks(draft);
    return ceilingAbove(w, w.stationMainline[w.stationIndex.get(id) ?? -1] ?? -1);
  }, [draft, id]);
  return (
    <Form title="One station">
      <ChoiceField
        label="Station"
        className="min-w-56 grow"
        value={id}
        options={draft.stations.map((s) => [s.id, `${s.number} ${s.name}`])}
        onCommit={setId}
      />
      <MinutesField label="for" min={0.1} max={1440} value={minutes} onCommit={setMinutes} />
      <Go
        label="Run it"
        disabled={!station}
        onGo={() => void order({ kind: "run", runs: [{ stationId: id, minutes }] })}
      />
      <p className="basis-full text-sm text-faint">
        {flow === null ? "It has no flow figure yet" : `Takes ${quantity(flow, "flow")}`}
        {Number.isFinite(ceiling) ? ` of the ${quantity(ceiling, "flow")} that its supply carries` : ""}; runs whatever
        the weather inputs say. Where others run already it waits for room under the ceiling.
      </p>
    </Form>
  );
}

function ProgramForm({ order }: { order: Ask }) {
  const { draft } = useWorkspace("draft");
  const programs = draft.programs.filter((p) => p.runs.length > 0);
  const [id, setId] = useState(programs[0]?.id ?? "");
  const [from, setFrom] = useState("");
  const [minutes, setMinutes] = useState<number | undefined>(undefined);
  const program = programs.find((p) => p.id === id);
  if (programs.length === 0) return null;
  const name = (id: string): string => stationName(draft, id);
  return (
    <Form title="A program, for this once">
      <ChoiceField
        label="Program"
        className="min-w-40 grow"
        value={id}
        options={programs.map((p) => [p.id, p.name])}
        onCommit={(v) => {
          setId(v);
          setFrom("");
        }}
      />
      <ChoiceField
        label="From"
        className="min-w-40 grow"
        value={from}
        options={[
          ["", "its first station"],
          ...(program?.runs ?? []).map((r) => [r.stationId, name(r.stationId)] as const),
        ]}
        onCommit={setFrom}
      />
      <div className="w-36">
        <NumberField
          label="Other minutes"
          unit="min"
          min={0.1}
          max={1440}
          value={minutes}
          placeholder="as set"
          onCommit={setMinutes}
        />
      </div>
      <Go
        label="Begin it"
        onGo={() =>
          void order({
            kind: "program",
            programId: id,
            ...(from ? { fromStationId: from } : {}),
            ...(minutes ? { minutes } : {}),
          })
        }
      />
    </Form>
  );
}

function WalkForm({ order }: { order: Ask }) {
  const { draft } = useWorkspace("draft");
  const [id, setId] = useState(draft.controllers[0]?.id ?? "");
  const [minutes, setMinutes] = useState(2);
  return (
    <Form title="A walk: every station in turn">
      <ChoiceField
        label="Controller"
        className="min-w-40 grow"
        value={id}
        options={draft.controllers.map((c) => [c.id, c.name])}
        onCommit={setId}
      />
      <MinutesField label="each" min={1} max={15} value={minutes} onCommit={setMinutes} />
      <Go label="Walk" onGo={() => void order({ kind: "walk", controllerId: id, minutes })} />
    </Form>
  );
}

function HandForm({ order }: { order: Ask }) {
  const { draft, units } = useWorkspace("draft", "units");
  const pocs = draft.pocs.filter((p) => p.devices.some((d) => d.kind === "masterValve"));
  const [id, setId] = useState(pocs[0]?.id ?? "");
  const [minutes, setMinutes] = useState(20);
  const [flow, setFlow] = useState(units === "us" ? TEN_GPM : 40);
  if (pocs.length === 0) return null;
  return (
    <Form title="Water for a hose: a master valve open">
      <ChoiceField
        label="Point of connection"
        className="min-w-40 grow"
        value={id}
        options={pocs.map((p) => [p.id, p.name])}
        onCommit={setId}
      />
      <MinutesField label="for" min={1} max={1440} value={minutes} onCommit={setMinutes} />
      <div className="w-36">
        <NumberField
          label="It may take"
          quantity="flow"
          system={units}
          min={1}
          max={100_000}
          required
          value={flow}
          onCommit={(v) => setFlow(v ?? TEN_GPM)}
        />
      </div>
      <Go label="Open it" onGo={() => void order({ kind: "hand", pocId: id, minutes, flowLpm: flow })} />
    </Form>
  );
}

function OffForm({ order }: { order: Ask }) {
  const { draft } = useWorkspace("draft");
  const { date } = useConventions();
  const today = localDate(draft.site.timeZone, Math.floor(Date.now() / 1000));
  const [days, setDays] = useState<number | undefined>(3);
  const [until, setUntil] = useState(addDays(today, 3));
  const hold = draft.site.holdUntil;
  const off = (to: Extract<Order, { kind: "off" }>["until"]): void => void order({ kind: "off", until: to });
  return (
    <section aria-label="Off" className="border-t border-base-300 pt-2">
      <h3 className="mb-1 font-semibold">Rain delay and off</h3>
      {hold && (
        <p className="mb-2 flex flex-wrap items-center gap-3">
          <strong className="text-error">
            {hold === "indefinite" ? "OFF, no end set" : `Off until ${date(hold)}, ${daysTo(today, hold)} to go`}
          </strong>
          <Button className="min-h-11" icon={Power} onClick={() => void order({ kind: "resume" })}>
            Resume now
          </Button>
        </p>
      )}
      <div className="flex flex-wrap items-end gap-3">
        <div className="w-32">
          <NumberField
            label="Off for"
            unit="days"
            min={1}
            max={365}
            whole
            value={days}
            onCommit={(v) => {
              setDays(v);
              if (v) setUntil(addDays(today, v));
            }}
          />
        </div>
        <DateField label="waters again on" className="w-44" required value={until} onCommit={(v) => v && setUntil(v)} />
        <Button className="min-h-11" disabled={until <= today} onClick={() => off(until)}>
          Off until then
        </Button>
        <Button className="min-h-11" rank="danger" onClick={() => off("indefinite")}>
          Off with no end
        </Button>
      </div>
    </section>
  );
}

function daysTo(today: string, date: string): string {
  const days = Math.round((Date.parse(date) - Date.parse(today)) / 86_400_000);
  return `${days} day${days === 1 ? "" : "s"}`;
}
