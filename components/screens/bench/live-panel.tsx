"use client";
import { useLiveJudge } from "@/components/data/use-taught-sets";
import { Activity, Hourglass, MoonStar, Unplug } from "lucide-react";
import dynamic from "next/dynamic";
import { Table } from "@/components/kit/table";
import Link from "next/link";
import { useWorkspace } from "@/components/draft/site-draft";
import { useConventions } from "@/components/kit/conventions";
import type { FieldStatus } from "@/contracts/field";
import { GatewayAccount } from "./gateway-account";
import { PlayForm } from "./gateway-forms";
import { subjectName } from "@/core/judge/alarm-words";
import { faultWords } from "@/core/bench/faults/kinds";
import type { FaultRequest } from "@/core/bench/faults/resolve";
import { localClock, localIso } from "@/core/dates/wall-time";
import { totalLpm } from "@/core/field/messages";
import { expectedFlow } from "@/core/site-file/expected-flow";
import { showNumber } from "@/core/units/units";
import { EVENT_WORDS, reasonWords } from "../../words/event-words";
import { useField } from "../../data/use-field";

const ReadingsChart = dynamic(() => import("../../charts/readings-chart").then((m) => m.ReadingsChart));

const STATE = {
  waiting: { icon: Hourglass, words: "waiting for its first word" },
  live: { icon: Activity, words: "live" },
  silent: { icon: MoonStar, words: "silent" },
  unreachable: { icon: Unplug, words: "not reachable" },
} as const;

function GatewayState({ of }: { of: keyof typeof STATE }) {
  const { icon: Icon, words } = STATE[of];
  return (
    <span className="inline-flex items-center gap-1">
      <Icon className="size-4 shrink-0" aria-hidden /> {words}
    </span>
  );
}

/** The site as its field gateway reads it: stored, judged by the limits of this configuration, alarms as they come. */
export function LivePanel() {
  const { draft, units, canEdit, isManager } = useWorkspace("draft", "units", "canEdit", "isManager");
  const { status, reading, problem, act, setUp } = useField();
  if (!status) return <p>{problem ?? "Asking…"}</p>;
  const { gateway, stream } = status;
  const at = reading?.at ?? stream?.lastAt ?? null;
  const open = reading?.open ?? status.open;
  const total = reading ? totalLpm(reading.flow) : (status.rows.at(-1)?.readingLpm ?? 0);
  return (
    <section aria-label="Live">
      {problem && (
        <p role="alert" className="text-error font-semibold mb-2">
          {problem}
        </p>
      )}
      {gateway ? (
        <>
          <GatewayFacts state={gateway.state} at={at} open={open} totalLpm={total} />
          <Kept status={status} gateway={gateway} reading={reading} />
          {status.rows.length > 1 && (
            <ReadingsChart rows={status.rows} timeZone={draft.site.timeZone} units={units} at={null} whole />
          )}
          <div className="grid lg:grid-cols-2 gap-6 mt-2">
            <OpenNow open={open} reading={reading} />
            <WhatItSaid events={status.events} />
          </div>
          {canEdit && gateway.says?.simulated && <PlayForm pace={gateway.says.pace} at={at} act={act} />}
        </>
      ) : (
        <p className="max-w-prose mb-3">
          No gateway reads this site. A gateway stands beside the controller and says over MQTT what every sensor reads
          and what stands open; Presa keeps it, judges it by these limits and raises alarms as they happen. It opens no
          valves. One that plays this site ships with Presa.
        </p>
      )}
      {isManager && <GatewayAccount status={status} act={act} setUp={setUp} />}
    </section>
  );
}

type Field = ReturnType<typeof useField>;
type Gateway = NonNullable<FieldStatus["gateway"]>;

function Fact({ name, alarming = false, children }: { name: string; alarming?: boolean; children: React.ReactNode }) {
  return (
    <div className="flex gap-2">
      <dt className="text-faint">{name}</dt>
      <dd className={`font-semibold ${alarming ? "text-error" : ""}`}>{children}</dd>
    </div>
  );
}

/** How the gateway stands, what it read last, and what that is judged against. */
function GatewayFacts({
  state,
  at,
  open,
  totalLpm,
}: {
  state: Gateway["state"];
  at: string | null;
  open: string[];
  totalLpm: number;
}) {
  const { draft } = useWorkspace("draft");
  const { quantity, date } = useConventions();
  const { judge, known } = useLiveJudge();
  const read = at === null ? null : localIso(draft.site.timeZone, Math.floor(Date.parse(at) / 1000));
  const band = at === null ? null : judge.band(open, Date.parse(at) / 1000);
  const over = band !== null && totalLpm > band.highLpm;
  const under = band !== null && totalLpm < band.lowLpm;
  const sides = { over: " over", under: " under", inside: "" };
  return (
    <dl
      className="flex flex-wrap items-baseline gap-x-8 border-y-2 border-base-content py-1 mb-2 text-lg"
      aria-label="Gateway"
    >
      <div className="flex gap-2">
        <dt className="sr-only">state</dt>
        <dd className={`font-semibold ${state === "live" ? "" : "text-warning"}`}>
          <GatewayState of={state} />
        </dd>
      </div>
      <Fact name="last reading">{read ? `${date(read.slice(0, 10))} ${read.slice(11, 19)}` : "none yet"}</Fact>
      {band && (
        <>
          <Fact name="reads" alarming={over || under}>
            {quantity(totalLpm, "flow")}
            {sides[(over && "over") || (under && "under") || "inside"]}
          </Fact>
          <Fact name="expected">
            {quantity(band.expectedLpm, "flow")}
            <span className="text-base text-faint">{known(open)}</span>
          </Fact>
          <Fact name="trips">
            above {quantity(band.highLpm, "flow")}, below {quantity(band.lowLpm, "flow")}
          </Fact>
        </>
      )}
      {!band && at !== null && <Fact name="nothing open; reads">{quantity(totalLpm, "flow")}</Fact>}
    </dl>
  );
}

/** What has been taken in, what plays there, and where alarms go. */
function Kept({ status, gateway, reading }: { status: FieldStatus; gateway: Gateway; reading: Field["reading"] }) {
  const { draft, siteId } = useWorkspace("draft", "siteId");
  const { stream } = status;
  const { says } = gateway;
  const wrong = ((says?.faults ?? []) as FaultRequest[])
    .map((f) => `${faultWords(f.kind)} on ${subjectName(draft, f.subjectId)}`)
    .join(", ");
  const refused = reading?.refused ?? stream?.refused ?? 0;
  const pace =
    says?.pace === 1
      ? "as the clock goes"
      : `${showNumber(says?.pace ?? 1)} s of it in one until it has caught up with the clock`;
  return (
    <p className="text-sm mb-2">
      {says?.simulated && `A simulated site, ${pace}${wrong ? `, with ${wrong}` : ""}. `}
      {stream &&
        `${showNumber(reading?.readings ?? stream.readings)} readings and ${showNumber(stream.events)} events kept; ${showNumber(reading?.repeats ?? stream.repeats)} came twice and were dropped, ${showNumber(reading?.lost ?? stream.lost)} lost. `}
      {refused > 0 && (
        <strong className="text-warning">
          {showNumber(refused)} could not be read or bore a wrong time, and were set aside: look at the gateway's clock.{" "}
        </strong>
      )}
      {gateway.state === "unreachable" &&
        "The broker that gateways speak through cannot be reached; whoever runs Presa looks after it. "}
      {gateway.state === "silent" && "What it says meanwhile it keeps, and is asked for when it is back. "}
      Alarms go into the <Link href={`/sites/${siteId}/log`}>log</Link> and to{" "}
      <Link href="/alarms">alarms of all sites</Link>.
    </p>
  );
}

function OpenNow({ open, reading }: { open: string[]; reading: Field["reading"] }) {
  const { draft } = useWorkspace("draft");
  const { quantity } = useConventions();
  const pressures = Object.entries(reading?.pressure ?? {}).map(
    ([id, kPa]) => `${subjectName(draft, id)}: ${kPa === null ? "no value" : quantity(kPa, "pressure")}`,
  );
  return (
    <div>
      <h3 className="text-lg">Open now</h3>
      {open.length === 0 ? (
        <p>Nothing.</p>
      ) : (
        <Table aria-label="Open now">
          <thead>
            <tr>
              <th>Station</th>
              <th className="text-right">Expected alone</th>
            </tr>
          </thead>
          <tbody>
            {open.map((id) => {
              const station = draft.stations.find((x) => x.id === id);
              const figure = station && expectedFlow(station);
              return (
                <tr key={id}>
                  <td>{subjectName(draft, id).replace(/^station /, "")}</td>
                  <td className="text-right">{figure ? quantity(figure.lpm, "flow") : "no figure"}</td>
                </tr>
              );
            })}
          </tbody>
        </Table>
      )}
      {reading && reading.pumps.length > 0 && (
        <p className="text-sm">Running: {reading.pumps.map((id) => subjectName(draft, id)).join(", ")}.</p>
      )}
      {pressures.length > 0 && <p className="text-sm">{pressures.join("; ")}.</p>}
    </div>
  );
}

/** Events that somebody has to know of. */
const GRAVE: ReadonlySet<string> = new Set(["alarm", "lockedOut", "stopped"]);

function WhatItSaid({ events }: { events: FieldStatus["events"] }) {
  const { draft } = useWorkspace("draft");
  return (
    <div>
      <h3 className="text-lg">What it said</h3>
      <div className="max-h-[22rem] overflow-y-auto">
        <Table aria-label="What the gateway said">
          <tbody>
            {events.length === 0 && (
              <tr>
                <td>Nothing yet.</td>
              </tr>
            )}
            {events.map((e, i) => (
              // biome-ignore lint/suspicious/noArrayIndexKey: each is its place in the list
              <tr key={`${e.at}${e.type}${e.subjectId}${i}`}>
                <td className="whitespace-nowrap">{localClock(draft.site.timeZone, Date.parse(e.at) / 1000)}</td>
                <td className={GRAVE.has(e.type) ? "text-error font-semibold" : ""}>{EVENT_WORDS[e.type] ?? e.type}</td>
                <td>
                  {subjectName(draft, e.subjectId)}
                  {e.reason && <span className="text-faint"> {reasonWords(e)}</span>}
                </td>
              </tr>
            ))}
          </tbody>
        </Table>
      </div>
    </div>
  );
}
