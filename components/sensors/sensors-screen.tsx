"use client";
import { useState } from "react";
import { ChoiceField, NumberField } from "@/components/fields/fields";
import { patchDevice } from "@/components/waterworks/edits";
import { useWorkspace } from "@/components/workspace/workspace";
import { ceilings } from "@/core/ceilings/ceilings";
import { calibrate, type Calibration, type CalibrateRefusal, type MeterTest } from "@/core/sensors/calibrate";
import { flowFromHz, sensorRange } from "@/core/sensors/sensor-range";
import { expectedFlow } from "@/core/site-file/expected-flow";
import type { Device, FlowSensor, Station } from "@/core/site-file/schema";
import { showNumber, showQuantity } from "@/core/units/units";
import { RangeBar } from "./range-bar";

const REFUSED: Record<CalibrateRefusal["code"], string> = {
  noTests: "Enter a test first.", testNotPositive: "Hz, volume and seconds must all be above 0.", kMissing: "The present K is needed.",
  flowsTooClose: "The tests' flows lie within 1.5 × of each other; a line through them means nothing. Add a test at another flow.",
  slopeNotPositive: "The fitted slope is not above 0. Check that frequencies and meter readings belong together.",
};

/** Every flow sensor: its constant, what it can see, and its proof against the water meter. */
export function SensorsScreen() {
  const { draft } = useWorkspace();
  const found = [
    ...draft.pocs.flatMap((p) => p.devices.filter((d): d is FlowSensor => d.kind === "flowSensor").map((sensor) => ({ sensor, at: p.name, ownerId: p.id }))),
    ...draft.mainlines.flatMap((m) => (m.devices ?? []).filter((d): d is FlowSensor => d.kind === "flowSensor").map((sensor) => ({ sensor, at: m.name, ownerId: m.id }))),
  ];
  return (
    <>
      <h2 className="text-2xl mb-2">Sensors</h2>
      {found.length === 0 && <p className="max-w-prose">No flow sensor yet. Add one to a point of connection on Waterworks; without it nothing can be learned or watched by flow.</p>}
      {found.map(({ sensor, at, ownerId }) => <SensorSheet key={sensor.id} sensor={sensor} at={at} ownerId={ownerId} />)}
    </>
  );
}

function stationsBehind(file: ReturnType<typeof useWorkspace>["draft"], ownerId: string): Station[] {
  const mains = new Set<string>([ownerId]);
  for (let grew = true; grew; ) {
    grew = false;
    for (const m of file.mainlines) if (!mains.has(m.id) && m.feedIds.some((f) => mains.has(f))) { mains.add(m.id); grew = true; }
  }
  return file.stations.filter((s) => mains.has(s.mainlineId));
}

function SensorSheet({ sensor, at, ownerId }: { sensor: FlowSensor; at: string; ownerId: string }) {
  const { draft, edit, units, canEdit } = useWorkspace();
  const [hz, setHz] = useState<number | undefined>(20);
  const put = (values: Partial<Device>): void => edit(patchDevice(sensor.id, values));
  const { output } = sensor;
  const range = sensorRange(sensor);
  const poc = draft.pocs.find((p) => p.id === ownerId);
  const behind = stationsBehind(draft, ownerId);
  const ceiling = ceilings(draft).find((c) => c.id === ownerId)?.ceilingLpm ?? null;
  const unseen = behind.filter((s) => s.monitored !== false && range.minLpm !== null && (expectedFlow(s)?.lpm ?? Number.POSITIVE_INFINITY) < range.minLpm);
  return (
    <section aria-label={`${sensor.name ?? "Flow sensor"} at ${at}`} className="border-t-2 border-base-content pt-3 mb-8">
      <h3 className="text-xl mb-2">{sensor.name ?? "Flow sensor"} <span className="faint">at {at}</span></h3>
      <div className="grid xl:grid-cols-[27rem_minmax(0,1fr)] gap-8">
        <div className="grid grid-cols-2 gap-3 self-start">
          <ChoiceField label="Output" value={output.type} disabled={!canEdit} options={[["frequency", "frequency (K and offset)"], ["pulse", "pulses (volume each)"]]}
            onCommit={(v) => put({ output: v === "pulse" ? { type: "pulse", litresPerPulse: 10 } : { type: "frequency", kGpm: 1, offsetHz: 0 } } as Partial<Device>)} />
          <NumberField label="Inside diameter of its pipe" value={sensor.insideDiameterMm} quantity="diameter" system={units} min={5} max={5000} disabled={!canEdit} onCommit={(v) => put({ insideDiameterMm: v } as Partial<Device>)} />
          {output.type === "frequency" ? (
            <>
              <NumberField label="K, US gal/min per Hz" value={output.kGpm} min={0.0001} max={100_000} required disabled={!canEdit} onCommit={(v) => put({ output: { ...output, kGpm: v ?? output.kGpm } } as Partial<Device>)} />
              <NumberField label="Offset, Hz" value={output.offsetHz} min={-1000} max={1000} required disabled={!canEdit} onCommit={(v) => put({ output: { ...output, offsetHz: v ?? 0 } } as Partial<Device>)} />
            </>
          ) : (
            <NumberField label="Litres per pulse" value={output.litresPerPulse} min={0.0001} max={1_000_000} required disabled={!canEdit} onCommit={(v) => put({ output: { type: "pulse", litresPerPulse: v ?? output.litresPerPulse } } as Partial<Device>)} />
          )}
          <NumberField label="Smallest flow it sees" value={sensor.minLpm} quantity="flow" system={units} min={0} max={1_000_000} disabled={!canEdit} placeholder={range.minLpm === null ? "" : showNumber(range.minLpm, 1)} hint="empty: 0.3 m/s, or as stated" onCommit={(v) => put({ minLpm: v } as Partial<Device>)} />
          <NumberField label="Largest flow it sees" value={sensor.maxLpm} quantity="flow" system={units} min={0} max={1_000_000} disabled={!canEdit} placeholder={range.maxLpm === null ? "" : showNumber(range.maxLpm, 0)} onCommit={(v) => put({ maxLpm: v } as Partial<Device>)} />
          <div className="col-span-2 flex items-end gap-3 border-y rule py-2">
            <div className="w-28"><NumberField label="Try a frequency" unit="Hz" value={hz} min={0} max={10_000} onCommit={setHz} /></div>
            <output className="text-lg pb-1" aria-label="Flow at that frequency">reads <strong>{showQuantity(flowFromHz(output, hz ?? 0), "flow", units, 1)}</strong></output>
          </div>
          <p className="col-span-2 text-sm faint">{output.type === "frequency" ? "Q = K × (f + offset) in US gal/min, and 0 at 0 Hz." : "Q = volume per pulse × f × 60."}</p>
        </div>
        <div className="min-w-0">
          <h4 className="font-semibold mb-1">What it can see</h4>
          <RangeBar range={range} stations={behind} ceilingLpm={ceiling} burstLpm={poc?.burstLimitLpm} offScheduleLpm={poc?.offScheduleLimitLpm} units={units} />
          {unseen.length > 0 && range.minLpm !== null
            ? <p className="text-warning my-1">▲ Under {showQuantity(range.minLpm, "flow", units, 1)} it reads nothing: it cannot watch {unseen.map((s) => `${s.number} ${s.name}`).join(", ")}. A smaller body, or a second sensor for them.</p>
            : range.minLpm !== null && behind.length > 0 && <p className="my-1">It sees every monitored station behind it.</p>}
          {output.type === "frequency" && <Proof sensor={sensor} output={output} />}
        </div>
      </div>
    </section>
  );
}

function Proof({ sensor, output }: { sensor: FlowSensor; output: Extract<FlowSensor["output"], { type: "frequency" }> }) {
  const { edit, units, canEdit } = useWorkspace();
  const [rows, setRows] = useState<Partial<MeterTest>[]>([{}]);
  const tests = rows.filter((r): r is MeterTest => r.hz !== undefined && r.litres !== undefined && r.seconds !== undefined);
  const outcome = tests.length > 0 ? calibrate({ kGpm: output.kGpm, offsetHz: output.offsetHz, tests }) : null;
  const fit: Calibration | null = outcome?.ok ? outcome.value : null;
  const change = (i: number, values: Partial<MeterTest>): void => setRows(rows.map((r, n) => (n === i ? { ...r, ...values } : r)));
  return (
    <div className="mt-5">
      <h4 className="font-semibold">Prove it against the water meter</h4>
      <p className="text-sm faint max-w-prose">Run a steady flow with nothing else open, read the meter at start and end over a measured time, note the frequency. One test scales K; two or more at flows at least 1.5 × apart give K and offset.</p>
      <table className="sheet max-w-xl mt-2">
        <thead><tr><th>Test</th><th className="num">Frequency, Hz</th><th className="num">Metered, {units === "us" ? "gal" : "L"}</th><th className="num">Time, s</th><th className="num">Read − metered</th></tr></thead>
        <tbody>
          {rows.map((r, i) => {
            const place = tests.indexOf(r as MeterTest);
            return (
              <tr key={`${i}-${rows.length}`}>
                <td>{i + 1}</td>
                <td><NumberField hideLabel label={`Test ${i + 1}, Hz`} value={r.hz} min={0.001} max={10_000} disabled={!canEdit} onCommit={(v) => change(i, { hz: v })} /></td>
                <td><NumberField hideLabel label={`Test ${i + 1}, volume`} value={r.litres} quantity="volume" system={units} min={0.001} max={1e7} disabled={!canEdit} onCommit={(v) => change(i, { litres: v })} /></td>
                <td><NumberField hideLabel label={`Test ${i + 1}, seconds`} value={r.seconds} min={1} max={86_400} disabled={!canEdit} onCommit={(v) => change(i, { seconds: v })} /></td>
                <td className="num">{fit && place >= 0 ? showQuantity(fit.residuals[place] ?? 0, "flow", units, 2) : ""}</td>
              </tr>
            );
          })}
        </tbody>
      </table>
      <div className="flex flex-wrap items-center gap-3 mt-2">
        {canEdit && <button type="button" className="act" onClick={() => setRows([...rows, {}])}>+ test</button>}
        {outcome && !outcome.ok && <span role="alert" className="text-error">{REFUSED[outcome.refusal.code]}</span>}
        {fit && <span>K <strong>{fit.kGpm.toPrecision(5)}</strong>, offset <strong>{fit.offsetHz.toFixed(3)} Hz</strong>; was {output.kGpm.toPrecision(4)} and {output.offsetHz}. Worst {fit.worstPercent.toFixed(2)} % of metered.</span>}
        {fit && canEdit && <button type="button" className="act act-main" onClick={() => edit(patchDevice(sensor.id, { output: { ...output, kGpm: Number(fit.kGpm.toPrecision(8)), offsetHz: Number(fit.offsetHz.toFixed(6)) } } as Partial<Device>))}>Take K and offset</button>}
      </div>
    </div>
  );
}
