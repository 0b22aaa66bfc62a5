"use client";
import { ScreenBar } from "@/components/frame/screen-bar";
import { oneOf, useScreenParam } from "@/components/frame/use-screen-param";
import { Button } from "@/components/kit/button";
import { classes } from "@/components/kit/classes";
import { InspectorHead } from "@/components/kit/inspector";
import { Mark } from "@/components/kit/notice";
import { useMemo } from "react";
import { useWorkspace } from "@/components/draft/site-draft";
import { ceilings } from "@/core/ceilings/ceilings";
import { type Waterworks, waterworks } from "@/core/network/waterworks";
import { pocSensing, siteSensors } from "@/core/network/sensing";
import { sensorProof } from "@/core/sensors/proven";
import { checksDone } from "./checklist";
import { sensorRange } from "@/core/sensors/sensor-range";
import { expectedFlow } from "@/core/site-file/expected-flow";
import type { FlowSensor, SiteFile, Station } from "@/core/site-file/schema";
import { showQuantity, type UnitSystem } from "@/core/units/units";
import { BodyFit } from "./body-fit";
import { CheckList } from "./check-list";
import { ProvingPanel } from "./proving-panel";
import { RangeBar } from "../../pictures/range-bar";
import { CountersPanel } from "./counters-panel";
import { MeterPanel } from "./meter-panel";
import { SensorForm } from "./sensor-form";

const VIEWS = [
  { id: "sensor", label: "Sensor" },
  { id: "counters", label: "Counters" },
  { id: "meter", label: "Meter log" },
] as const;
type View = (typeof VIEWS)[number]["id"];
const isView = oneOf(VIEWS);

/** One flow sensor at a time: its constant, what it can see, its wiring, and its proof against the water meter. */
export function SensorsScreen() {
  const { draft, units } = useWorkspace("draft", "units");
  const [at, setAt] = useScreenParam<string>("at", "");
  const [view, setView] = useScreenParam<View>("view", "sensor", { fits: isView });
  const nameOf = useDeviceNames(draft);
  const w = useMemo(() => waterworks(draft), [draft]);
  const found = siteSensors(w);
  const shown = found.find((f) => f.sensor.id === at) ?? found[0];
  return (
    <>
      <ScreenBar title="Sensors" views={VIEWS} at={view} onView={setView} />
      {view === "counters" && <CountersPanel nameOf={nameOf} />}
      {view === "meter" && <MeterPanel nameOf={nameOf} />}
      {view === "sensor" && !shown && (
        <p className="max-w-prose">
          No flow sensor yet. Add one to a point of connection on Waterworks; without it nothing can be learned or
          watched by flow.
        </p>
      )}
      {view === "sensor" && found.length > 1 && <Sums w={w} units={units} />}
      {view === "sensor" && shown && (
        <div className="grid grid-cols-1 gap-6 lg:grid-cols-[13rem_minmax(0,1fr)]">
          <SensorList found={found} chosen={shown.sensor.id} onChoose={setAt} />
          <SensorSheet key={shown.sensor.id} sensor={shown.sensor} at={shown.ownerName} ownerId={shown.ownerId} />
        </div>
      )}
    </>
  );
}

/** What a device is called: its own name and where it sits. */
function useDeviceNames(site: SiteFile): (id: string) => string {
  return useMemo(() => {
    const names = new Map(
      [...site.pocs, ...site.mainlines].flatMap((e) =>
        (e.devices ?? []).map((d) => [d.id, d.name ? `${e.name}, ${d.name}` : e.name] as const),
      ),
    );
    return (id) => names.get(id) ?? id;
  }, [site]);
}

/** What is still to be done before a sensor can be believed. */
function standing(sensor: FlowSensor): { words: string; tone: "alarm" | "caution" | null } {
  const { done, wrong, of } = checksDone(sensor);
  if (wrong > 0) return { words: `${wrong} check${wrong > 1 ? "s" : ""} not in order`, tone: "alarm" };
  const proof = sensorProof(sensor, new Date().toISOString());
  if (proof.state === "none") return { words: "not proven", tone: "caution" };
  if (proof.state === "stale")
    return {
      words: proof.why === "year" ? "proven over a year ago" : "constant changed since its proof",
      tone: "caution",
    };
  return done < of
    ? { words: `proven; ${of - done} checks left`, tone: null }
    : { words: "proven, all in order", tone: null };
}

function SensorList({
  found,
  chosen,
  onChoose,
}: {
  found: ReturnType<typeof siteSensors>;
  chosen: string;
  onChoose: (id: string) => void;
}) {
  return (
    <nav aria-label="Sensors of the site" className="min-w-0">
      <ul className="flex gap-1 overflow-x-auto lg:flex-col">
        {found.map(({ sensor, ownerName }) => {
          const { words, tone } = standing(sensor);
          return (
            <li key={sensor.id} className="min-w-44">
              <Button
                rank="bare"
                aria-current={sensor.id === chosen ? "true" : undefined}
                className={classes(
                  "w-full cursor-pointer border-l-4 px-2 py-1 text-left",
                  sensor.id === chosen ? "border-base-content bg-base-200" : "border-transparent hover:bg-base-200",
                )}
                onClick={() => onChoose(sensor.id)}
              >
                <span className="block font-semibold">{ownerName}</span>
                <span
                  className={classes(
                    "text-xs",
                    tone === "alarm" && "text-error",
                    tone === "caution" && "text-warning",
                    !tone && "text-faint",
                  )}
                >
                  {words}
                </span>
              </Button>
            </li>
          );
        })}
      </ul>
    </nav>
  );
}

/** Where sensors are read together: several connections on one system, or one master valve over several sensors. */
function Sums({ w, units }: { w: Waterworks; units: UnitSystem }) {
  const { site } = w;
  const systems = Array.from({ length: w.systemCount }, (_, i) =>
    site.pocs.flatMap((_p, p) => (w.systemOfPoc[p] === i ? [p] : [])),
  ).filter((p) => p.length > 0);
  const lines = systems.flatMap((pocs, i) => {
    const sensing = pocs.map((p) => ({ p, ...pocSensing(w, p) }));
    const sensors = sensing.flatMap((s) => s.sensors);
    const blind = sensing.filter((s) => s.by === "none" || s.by === "part");
    if (sensors.length < 2 && blind.length === 0) return [];
    const minima = sensors.map((s) => sensorRange(s).minLpm);
    const least = minima.every((m) => m !== null) ? minima.reduce((sum: number, m) => sum + (m ?? 0), 0) : null;
    const names = pocs.map((p) => site.pocs[p]?.name).join(" and ");
    const summed = sensing.some((s) => s.by === "mainlines")
      ? `${names}: no sensor of its own; the ${sensors.length} on its mainlines are read as a sum.`
      : `${names} feed one connected system: their ${sensors.length} sensors are judged as a sum, each with its own burst limit.`;
    const how =
      blind.length > 0
        ? `${blind.map((b) => site.pocs[b.p]?.name).join(", ")} ${blind.length > 1 ? "are" : "is"} not measured whole, so nothing on ${names} can be judged by flow.`
        : summed;
    return [
      // biome-ignore lint/suspicious/noArrayIndexKey: each is its place in the list
      <li key={i} className={blind.length > 0 ? "text-warning" : ""}>
        {how}
        {blind.length === 0 && least !== null
          ? ` Together they are sure to see ${showQuantity(least, "flow", units, 1)} and more.`
          : ""}
      </li>,
    ];
  });
  return lines.length === 0 ? null : <ul className="mb-3">{lines}</ul>;
}

/** Stations whose water passes an element: those of the mainlines under it. */
function stationsBehind(file: SiteFile, ownerId: string): Station[] {
  const mains = new Set<string>([ownerId]);
  for (let grew = true; grew; ) {
    grew = false;
    for (const m of file.mainlines)
      if (!mains.has(m.id) && m.feedIds.some((f) => mains.has(f))) {
        mains.add(m.id);
        grew = true;
      }
  }
  return file.stations.filter((s) => mains.has(s.mainlineId));
}

function SensorSheet({ sensor, at, ownerId }: { sensor: FlowSensor; at: string; ownerId: string }) {
  const { draft, units } = useWorkspace("draft", "units");
  const range = sensorRange(sensor);
  const poc = draft.pocs.find((p) => p.id === ownerId);
  const behind = stationsBehind(draft, ownerId);
  const ceiling = ceilings(draft).find((c) => c.id === ownerId);
  // What the chain would carry with another sensor: its own largest reading must not limit the choice of a body.
  const others = (ceiling?.rules ?? []).filter((r) => r.deviceId !== sensor.id).map((r) => r.lpm);
  const most =
    others.length > 0 ? Math.max(Math.min(...others), poc?.burstLimitLpm ?? 0) : (poc?.burstLimitLpm ?? null);
  const unseen = behind.filter(
    (s) =>
      s.monitored !== false &&
      range.minLpm !== null &&
      (expectedFlow(s)?.lpm ?? Number.POSITIVE_INFINITY) < range.minLpm,
  );
  return (
    <section aria-label={`${sensor.name ?? "Flow sensor"} at ${at}`} className="min-w-0">
      <div className="grid grid-cols-1 gap-8 xl:grid-cols-[minmax(0,1fr)_20rem]">
        <aside aria-label="Data sheet" className="min-w-0 xl:order-2 xl:border-l xl:border-base-300 xl:pl-4">
          <InspectorHead over="Data sheet" title={`${sensor.name ?? "Flow sensor"} at ${at}`} />
          <SensorForm sensor={sensor} />
        </aside>
        <div className="min-w-0">
          <h3 className="mb-1 text-lg">What it can see</h3>
          <RangeBar
            range={range}
            stations={behind}
            ceilingLpm={ceiling?.ceilingLpm ?? null}
            burstLpm={poc?.burstLimitLpm}
            offScheduleLpm={poc?.offScheduleLimitLpm}
            units={units}
          />
          {unseen.length > 0 && range.minLpm !== null ? (
            <p className="text-warning my-1">
              <Mark tone="caution" /> Under {showQuantity(range.minLpm, "flow", units, 1)} it reads nothing: it cannot
              watch {unseen.map((s) => `${s.number} ${s.name}`).join(", ")}. A smaller body, or a second sensor for
              them.
            </p>
          ) : (
            range.minLpm !== null &&
            behind.length > 0 && <p className="my-1">It sees every monitored station behind it.</p>
          )}
          <BodyFit sensor={sensor} stations={behind} mostLpm={most} />
          <ProvingPanel sensor={sensor} />
          <CheckList sensor={sensor} />
        </div>
      </div>
    </section>
  );
}
