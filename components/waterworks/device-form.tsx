"use client";
import { useId, useState } from "react";
import { ChoiceField, NumberField, TextField } from "@/components/fields/fields";
import { useWorkspace } from "@/components/workspace/workspace";
import { insideDiameterMm } from "@/core/ceilings/ceilings";
import { findSeries, PIPE_TABLE } from "@/core/pipes/pipe-table";
import type { Device, DeviceOf } from "@/core/site-file/schema";
import { showQuantity } from "@/core/units/units";
import { patchDevice } from "./edits";
import { DEVICE_WORDS } from "./rule-words";

/** The data sheet of one device: every field says its unit and range. */
export function DeviceForm({ device }: { device: Device }) {
  const { edit, units, canEdit } = useWorkspace();
  const put = (values: Partial<Device>): void => edit(patchDevice(device.id, values));
  const flow = (label: string, key: string, value: number | undefined) => (
    <NumberField label={label} value={value} quantity="flow" system={units} min={0} max={1_000_000} disabled={!canEdit} onCommit={(v) => put({ [key]: v } as Partial<Device>)} />
  );
  return (
    <div className="grid grid-cols-2 gap-x-3 gap-y-2">
      <TextField label="Name" value={device.name ?? ""} placeholder={DEVICE_WORDS[device.kind]} disabled={!canEdit} onCommit={(v) => put({ name: v.trim() === "" ? undefined : v.trim() })} />
      <TextField label="Serial number" value={device.serial ?? ""} disabled={!canEdit} onCommit={(v) => put({ serial: v.trim() === "" ? undefined : v.trim() })} />
      {device.kind === "meter" && (
        <>
          {flow("Continuous rating", "continuousMaxLpm", device.continuousMaxLpm)}
          {flow("Safe maximum", "safeMaxLpm", device.safeMaxLpm)}
          <NumberField label="Loss" value={device.lossKpaAt?.lossKpa} quantity="pressure" system={units} min={0} max={10_000} disabled={!canEdit} onCommit={(v) => put({ lossKpaAt: v === undefined ? undefined : { flowLpm: device.lossKpaAt?.flowLpm ?? device.continuousMaxLpm ?? 100, lossKpa: v } })} />
          <NumberField label="at flow" value={device.lossKpaAt?.flowLpm} quantity="flow" system={units} min={0.1} max={1_000_000} disabled={!canEdit} onCommit={(v) => put({ lossKpaAt: v === undefined ? undefined : { flowLpm: v, lossKpa: device.lossKpaAt?.lossKpa ?? 0 } })} />
        </>
      )}
      {device.kind === "backflow" && flow("Largest flow", "maxLpm", device.maxLpm)}
      {device.kind === "masterValve" && (
        <>
          <ChoiceField label="Normally" value={device.normally} disabled={!canEdit} options={[["closed", "closed"], ["open", "open"]]} onCommit={(v) => put({ normally: v })} />
          {flow("Largest flow", "maxLpm", device.maxLpm)}
          <NumberField label="Kv" unit="m³/h at 1 bar" value={device.kv} min={0.01} max={100_000} disabled={!canEdit} onCommit={(v) => put({ kv: v })} />
        </>
      )}
      {device.kind === "pump" && (
        <>
          {flow("Minimum flow", "minFlowLpm", device.minFlowLpm)}
          {flow("Best efficiency at", "bestEfficiencyLpm", device.bestEfficiencyLpm)}
          <PumpCurve device={device} />
        </>
      )}
      {device.kind === "pipe" && <PipeFields device={device} />}
      {device.kind === "fixedLoss" && <NumberField label="Loss" value={device.lossKpa} quantity="pressure" system={units} min={0} max={10_000} required disabled={!canEdit} onCommit={(v) => put({ lossKpa: v })} />}
      {device.kind === "regulator" && <NumberField label="Set pressure" value={device.setKpa} quantity="pressure" system={units} min={0} max={10_000} required disabled={!canEdit} onCommit={(v) => put({ setKpa: v })} />}
      {device.kind === "pressureSensor" && (
        <>
          <NumberField label="Low limit" value={device.lowKpa} quantity="pressure" system={units} min={0} max={10_000} disabled={!canEdit} onCommit={(v) => put({ lowKpa: v })} />
          <NumberField label="High limit" value={device.highKpa} quantity="pressure" system={units} min={0} max={10_000} disabled={!canEdit} onCommit={(v) => put({ highKpa: v })} />
        </>
      )}
      {device.kind === "flowSensor" && <p className="col-span-2 text-sm faint">Its constant, range and proving are on Sensors.</p>}
      {device.kind === "pump" && <p className="col-span-2 text-sm border-l-4 border-warning pl-2"><strong>Caution.</strong> Line-voltage and pump wiring: licensed electrician; power off and locked before opening an enclosure. A pump must not run against a closed valve.</p>}
      {device.kind === "backflow" && <p className="col-span-2 text-sm border-l-4 border-warning pl-2"><strong>Caution.</strong> Certified tester; never bypass; local plumbing and cross-connection rules decide.</p>}
    </div>
  );
}

function PipeFields({ device }: { device: DeviceOf<"pipe"> }) {
  const { edit, units, canEdit } = useWorkspace();
  const put = (values: Partial<Device>): void => edit(patchDevice(device.id, values));
  const series = findSeries(device.material, device.series);
  const kind = series ? `${series.material}|${series.series}` : "other";
  const bore = insideDiameterMm(device);
  const fast = device.maxVelocityMs !== undefined && device.maxVelocityMs > 1.5;
  return (
    <>
      <ChoiceField label="Pipe" value={kind} disabled={!canEdit} options={[...PIPE_TABLE.map((s) => [`${s.material}|${s.series}`, `${s.material} ${s.series}`] as const), ...(series ? [] : [["other", `${device.material} ${device.series}`] as const])]}
        hint={series ? series.standard : "not in the pipe table"}
        onCommit={(v) => {
          const chosen = PIPE_TABLE.find((s) => `${s.material}|${s.series}` === v);
          if (chosen) put({ material: chosen.material, series: chosen.series, nominal: chosen.sizes.find((z) => z.nominal === device.nominal)?.nominal ?? chosen.sizes[4]?.nominal ?? device.nominal });
        }} />
      <ChoiceField label="Nominal size" value={device.nominal} disabled={!canEdit} options={[...new Set([...(series?.sizes.map((s) => s.nominal) ?? []), device.nominal])].map((n) => [n, n] as const)}
        hint={bore === null ? "inside diameter unknown" : `inside ${showQuantity(bore, "diameter", units)}`} onCommit={(v) => put({ nominal: v })} />
      <NumberField label="Length" value={device.lengthM} quantity="length" system={units} min={0} max={100_000} required disabled={!canEdit} onCommit={(v) => put({ lengthM: v })} />
      <NumberField label="Inside diameter, measured" value={device.insideDiameterMm} quantity="diameter" system={units} min={1} max={5000} disabled={!canEdit} onCommit={(v) => put({ insideDiameterMm: v })} />
      <NumberField label="Largest velocity" value={device.maxVelocityMs} quantity="velocity" system={units} min={0.1} max={2.1} placeholder="1.5 m/s" disabled={!canEdit} onCommit={(v) => put({ maxVelocityMs: v })} />
      <TextField label="Reason for more than 1.5 m/s" value={device.maxVelocityReason ?? ""} disabled={!canEdit || !fast} onCommit={(v) => put({ maxVelocityReason: v.trim() === "" ? undefined : v.trim() })} />
    </>
  );
}

function PumpCurve({ device }: { device: DeviceOf<"pump"> }) {
  const { edit, canEdit } = useWorkspace();
  const id = useId();
  const shown = device.curve.map((p) => `${Number(p.flowLpm.toFixed(3))} ${Number(p.headM.toFixed(3))}`).join("\n");
  const [text, setText] = useState(shown);
  const [error, setError] = useState<string | null>(null);
  const commit = (): void => {
    const rows = text.split("\n").map((r) => r.trim()).filter((r) => r !== "").map((r) => r.split(/[\s,;]+/).map(Number));
    const wrong = rows.findIndex((r) => r.length !== 2 || r.some((v) => !Number.isFinite(v) || v < 0));
    if (rows.length === 0 || wrong >= 0) return setError(`Line ${wrong + 1}: write a flow in L/min and a head in m, like "120 58".`);
    if (rows.some((r, i) => i > 0 && (r[0] as number) <= (rows[i - 1]?.[0] as number))) return setError("The flows must rise from line to line.");
    setError(null);
    edit(patchDevice(device.id, { curve: rows.map(([flowLpm, headM]) => ({ flowLpm: flowLpm as number, headM: headM as number })) }));
  };
  return (
    <div className="col-span-2">
      <label htmlFor={id} className="block text-sm faint">Curve: one point a line, L/min and metres of head</label>
      <textarea id={id} className="entry" rows={Math.max(3, device.curve.length)} value={text} disabled={!canEdit} onChange={(e) => setText(e.target.value)} onBlur={commit} aria-invalid={error !== null} />
      {error && <p role="alert" className="text-sm text-error">{error}</p>}
    </div>
  );
}
