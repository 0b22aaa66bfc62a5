"use client";
import { Activity, Hourglass, MoonStar, Unplug } from "lucide-react";
import dynamic from "next/dynamic";
import { Table } from "@/components/kit/table";
import { Input } from "@/components/kit/inputs";
import { DateField } from "@/components/kit/date-field";
import { TimeField } from "@/components/kit/time-field";
import { Button } from "@/components/kit/button";
import Link from "next/link";
import { useMemo, useState } from "react";
import { NumberField } from "@/components/kit/fields";
import { useWorkspace } from "@/components/draft/site-draft";
import { subjectName } from "@/core/judge/alarm-words";
import { faultWords } from "@/core/bench/faults/kinds";
import type { FaultRequest } from "@/core/bench/faults/resolve";
import { addDays, instantOf, localClock, localIso } from "@/core/dates/wall-time";
import { LiveJudge } from "@/core/field/live-judge";
import { expectedFlow } from "@/core/site-file/expected-flow";
import { showNumber, showQuantity } from "@/core/units/units";
import { FaultList } from "./fault-list";
import { EVENT_WORDS } from "../../words/event-words";
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
  const { draft, siteId, units, canEdit, isManager } = useWorkspace("draft", "siteId", "units", "canEdit", "isManager");
  const { status, reading, events, problem, act } = useField();
  const judge = useMemo(() => new LiveJudge(draft), [draft]);
  if (!status) return <p>{problem ?? "Asking…"}</p>;
  const { gateway, stream } = status;
  const zone = draft.site.timeZone;
  const at = reading?.at ?? stream?.lastAt ?? null;
  const open = reading?.open ?? status.open;
  const total = reading
    ? Object.values(reading.flow).reduce((sum: number, q) => sum + (q ?? 0), 0)
    : (status.rows.at(-1)?.readingLpm ?? 0);
  const band = at === null ? null : judge.band(open, Date.parse(at) / 1000);
  const beyond = band !== null && (total > band.highLpm || total < band.lowLpm);
  const flow = (q: number): string => showQuantity(q, "flow", units, 1);
  return (
    <section aria-label="Live">
      {problem && (
        <p role="alert" className="text-error font-semibold mb-2">
          {problem}
        </p>
      )}
      {!gateway && (
        <p className="max-w-prose mb-3">
          No gateway reads this site. A gateway stands beside the controller and says over MQTT what every sensor reads
          and what stands open; Presa keeps it, judges it by these limits and raises alarms as they happen. It opens no
          valves. One that plays this site ships with Presa: export the site, then{" "}
          <code className="whitespace-nowrap">bin/gateway {draft.site.id}.presa.json</code>.
        </p>
      )}
      {gateway && (
        <>
          <dl
            className="flex flex-wrap items-baseline gap-x-8 border-y-2 border-base-content py-1 mb-2 text-lg"
            aria-label="Gateway"
          >
            <div className="flex gap-2">
              <dt className="sr-only">state</dt>
              <dd className={`font-semibold ${gateway.state === "live" ? "" : "text-warning"}`}>
                <GatewayState of={gateway.state} />
              </dd>
            </div>
            <div className="flex gap-2">
              <dt className="text-faint">last reading</dt>
              <dd className="font-semibold">
                {at
                  ? localIso(zone, Math.floor(Date.parse(at) / 1000))
                      .slice(0, 19)
                      .replace("T", " ")
                  : "none yet"}
              </dd>
            </div>
            {band && (
              <div className="flex gap-2">
                <dt className="text-faint">reads</dt>
                <dd className={`font-semibold ${beyond ? "text-error" : ""}`}>
                  {flow(total)}
                  {beyond ? ` ${total > band.highLpm ? "over" : "under"}` : ""}
                </dd>
              </div>
            )}
            {band && (
              <div className="flex gap-2">
                <dt className="text-faint">expected</dt>
                <dd className="font-semibold">{flow(band.expectedLpm)}</dd>
              </div>
            )}
            {band && (
              <div className="flex gap-2">
                <dt className="text-faint">trips</dt>
                <dd className="font-semibold">
                  above {flow(band.highLpm)}, below {flow(band.lowLpm)}
                </dd>
              </div>
            )}
            {!band && at !== null && (
              <div className="flex gap-2">
                <dt className="text-faint">nothing open; reads</dt>
                <dd className="font-semibold">{flow(total)}</dd>
              </div>
            )}
          </dl>
          <p className="text-sm mb-2">
            {gateway.says?.simulated
              ? `A simulated site, ${gateway.says.pace === 1 ? "as the clock goes" : `${showNumber(gateway.says.pace)} s of it in one until it has caught up with the clock`}${gateway.says.faults.length > 0 ? `, with ${(gateway.says.faults as FaultRequest[]).map((f) => `${faultWords(f.kind)} on ${subjectName(draft, f.subjectId)}`).join(", ")}` : ""}. `
              : ""}
            {stream &&
              `${showNumber(reading?.readings ?? stream.readings)} readings and ${showNumber(stream.events)} events kept; ${showNumber(reading?.repeats ?? stream.repeats)} came twice and were dropped, ${showNumber(reading?.lost ?? stream.lost)} lost. `}
            {gateway.state === "unreachable" && `Nothing answers at ${gateway.url}. Is the gateway running? `}
            {gateway.state === "silent" && "What it says meanwhile it keeps, and is asked for when it is back. "}
            Alarms go into the <Link href={`/sites/${siteId}/log`}>log</Link> and to{" "}
            <Link href="/alarms">alarms of all sites</Link>.
          </p>
          {status.rows.length > 1 && <ReadingsChart rows={status.rows} timeZone={zone} units={units} at={null} whole />}
          <div className="grid lg:grid-cols-2 gap-6 mt-2">
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
                          <td className="text-right">{figure ? flow(figure.lpm) : "no figure"}</td>
                        </tr>
                      );
                    })}
                  </tbody>
                </Table>
              )}
              {reading && reading.pumps.length > 0 && (
                <p className="text-sm">Running: {reading.pumps.map((id) => subjectName(draft, id)).join(", ")}.</p>
              )}
              {reading && Object.keys(reading.pressure).length > 0 && (
                <p className="text-sm">
                  {Object.entries(reading.pressure)
                    .map(
                      ([id, kPa]) =>
                        `${subjectName(draft, id)}: ${kPa === null ? "no value" : showQuantity(kPa, "pressure", units)}`,
                    )
                    .join("; ")}
                  .
                </p>
              )}
            </div>
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
                        <td className="whitespace-nowrap">{localClock(zone, Date.parse(e.at) / 1000)}</td>
                        <td
                          className={
                            e.type === "alarm" || e.type === "lockedOut" || e.type === "stopped"
                              ? "text-error font-semibold"
                              : ""
                          }
                        >
                          {EVENT_WORDS[e.type] ?? e.type}
                        </td>
                        <td>
                          {subjectName(draft, e.subjectId)}
                          {e.reason && <span className="text-faint"> {e.reason}</span>}
                        </td>
                      </tr>
                    ))}
                  </tbody>
                </Table>
              </div>
            </div>
          </div>
          {canEdit && gateway.says?.simulated && <PlayForm pace={gateway.says.pace} at={at} act={act} />}
        </>
      )}
      {isManager && <AddressForm key={gateway?.url ?? ""} gateway={gateway} act={act} />}
    </section>
  );
}

type Act = ReturnType<typeof useField>["act"];

/** For a gateway that plays a site: from when, how fast, with what wrong. */
function PlayForm({ pace, at, act }: { pace: number; at: string | null; act: Act }) {
  const { draft, date } = useWorkspace("draft", "date");
  const zone = draft.site.timeZone;
  const [from, setFrom] = useState(`${addDays(date, -1)}T20:00`);
  const [speed, setSpeed] = useState(pace);
  const [faults, setFaults] = useState<FaultRequest[]>([]);
  const [said, setSaid] = useState<string | null>(null);
  const send = async (body: unknown, words: string): Promise<void> => {
    setSaid((await act("POST", "/play", body)) ? words : null);
  };
  return (
    <fieldset className="border-t border-base-300 mt-4 pt-2" aria-label="Play the simulated site">
      <h3 className="text-lg">Play the simulated site</h3>
      <FaultList
        faults={faults}
        onChange={setFaults}
        date={localIso(zone, Math.floor(Date.now() / 1000)).slice(0, 10)}
        calm="Nothing wrong with it."
        from={at ? localIso(zone, Math.floor(Date.parse(at) / 1000)).slice(11, 19) : "+300"}
      />
      <div className="flex flex-wrap items-end gap-3 mt-2">
        <DateField
          label="From, on the site's clock"
          required
          className="w-44"
          value={from.slice(0, 10)}
          onCommit={(v) => v && setFrom(`${v}${from.slice(10)}`)}
        />
        <TimeField
          label="at"
          required
          value={from.slice(11, 16)}
          onCommit={(v) => v && setFrom(`${from.slice(0, 11)}${v}`)}
        />
        <div className="w-40">
          <NumberField
            label="Seconds of it in one"
            unit="s"
            value={speed}
            min={1}
            max={3600}
            required
            onCommit={(v) => setSpeed(v ?? 1)}
          />
        </div>
        <Button
          rank="main"
          onClick={() =>
            void send(
              {
                from: new Date(instantOf(zone, from.slice(0, 10), from.slice(11, 16)) * 1000).toISOString(),
                pace: speed,
                faults,
              },
              "It plays from there. Never ahead of the clock.",
            )
          }
        >
          Play from there
        </Button>
        <Button
          onClick={() =>
            void send(
              { pace: speed, faults },
              faults.length > 0 ? "The faults are on it." : "Nothing is wrong with it any more.",
            )
          }
        >
          Go on where it is, with these faults
        </Button>
        {said && <span role="status">{said}</span>}
      </div>
    </fieldset>
  );
}

/** Which gateway is listened to. */
function AddressForm({ gateway, act }: { gateway: { url: string; topic: string } | null; act: Act }) {
  const { draft } = useWorkspace("draft");
  const [url, setUrl] = useState(gateway?.url ?? "mqtt://127.0.0.1:18830");
  const [topic, setTopic] = useState(gateway?.topic ?? draft.site.id);
  return (
    <form
      className="flex flex-wrap items-end gap-3 border-t border-base-300 mt-4 pt-2"
      aria-label="Gateway's address"
      onSubmit={(e) => {
        e.preventDefault();
        void act("POST", "", { url, topic });
      }}
    >
      <label className="w-64">
        <span className="block text-sm text-faint">Gateway, on this machine</span>
        <Input value={url} maxLength={200} onChange={(e) => setUrl(e.target.value)} />
      </label>
      <label className="w-56">
        <span className="block text-sm text-faint">Its name for this site</span>
        <Input value={topic} maxLength={100} onChange={(e) => setTopic(e.target.value)} />
      </label>
      <Button type="submit" disabled={gateway !== null && url === gateway.url && topic === gateway.topic}>
        {gateway ? "Listen there instead" : "Listen to it"}
      </Button>
      {gateway && <Button onClick={() => void act("DELETE", "")}>Stop listening</Button>}
    </form>
  );
}
