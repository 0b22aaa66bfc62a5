"use client";
import { TextArea } from "@/components/kit/inputs";
import type { Patch } from "@/core/site-file/patch";
import { useEffect, useId, useState } from "react";
import { ChoiceField, NumberField, TextField } from "@/components/kit/fields";
import { useNight, useWorkspace } from "@/components/draft/site-draft";
import { insideDiameterMm } from "@/core/ceilings/ceilings";
import { findSeries, PIPE_TABLE, pipeC } from "@/core/pipes/pipe-table";
import { pumpPoints } from "@/core/hydraulics/device-loss";
import { pipeFacts, pumpFacts } from "@/core/hydraulics/main-facts";
import { sizeFor } from "@/core/pipes/sizing";
import type { Device, DeviceOf } from "@/core/site-file/schema";
import { showNumber, showQuantity } from "@/core/units/units";
import { TYPICAL_MA } from "@/core/wiring/load";
import { patchDevice } from "../../draft/waterworks-edits";
import { LibraryPicker } from "./library-picker";
import { DEVICE_WORDS } from "../../words/rule-words";

/** The data sheet of one device: every field says its unit and range. */
export function DeviceForm({ device }: { device: Device }) {
  const { edit, units, canEdit } = useWorkspace("edit", "units", "canEdit");
  const put = (values: Patch<Device>): void => edit(patchDevice(device.id, values));
  const flow = (label: string, key: string, value: number | undefined) => (
    <NumberField
      label={label}
      value={value}
      quantity="flow"
      system={units}
      min={0}
      max={1_000_000}
      disabled={!canEdit}
      onCommit={(v) => put({ [key]: v } as Patch<Device>)}
    />
  );
  return (
    <div className="grid grid-cols-2 gap-x-3 gap-y-2">
      <TextField
        label="Name"
        value={device.name ?? ""}
        placeholder={DEVICE_WORDS[device.kind]}
        disabled={!canEdit}
        onCommit={(v) => put({ name: v.trim() === "" ? undefined : v.trim() })}
      />
      <TextField
        label="Serial number"
        value={device.serial ?? ""}
        disabled={!canEdit}
        onCommit={(v) => put({ serial: v.trim() === "" ? undefined : v.trim() })}
      />
      {device.kind === "meter" && (
        <>
          {flow("Continuous rating", "continuousMaxLpm", device.continuousMaxLpm)}
          {flow("Safe maximum", "safeMaxLpm", device.safeMaxLpm)}
          <NumberField
            label="Loss"
            value={device.lossKpaAt?.lossKpa}
            quantity="pressure"
            system={units}
            min={0}
            max={10_000}
            disabled={!canEdit}
            onCommit={(v) =>
              put({
                lossKpaAt:
                  v === undefined
                    ? undefined
                    : { flowLpm: device.lossKpaAt?.flowLpm ?? device.continuousMaxLpm ?? 100, lossKpa: v },
              })
            }
          />
          <NumberField
            label="at flow"
            value={device.lossKpaAt?.flowLpm}
            quantity="flow"
            system={units}
            min={0.1}
            max={1_000_000}
            disabled={!canEdit}
            onCommit={(v) =>
              put({ lossKpaAt: v === undefined ? undefined : { flowLpm: v, lossKpa: device.lossKpaAt?.lossKpa ?? 0 } })
            }
          />
        </>
      )}
      {device.kind === "backflow" && (
        <>
          {flow("Largest flow", "maxLpm", device.maxLpm)}
          <PointsField
            label="Loss by flow"
            unit="kPa"
            value={(device.lossPoints ?? []).map((p) => [p.flowLpm, p.lossKpa])}
            onCommit={(points) =>
              put({
                lossPoints:
                  points.length === 0 ? undefined : points.map(([flowLpm, lossKpa]) => ({ flowLpm, lossKpa })),
              })
            }
          />
        </>
      )}
      {device.kind === "masterValve" && (
        <>
          <ChoiceField
            label="Normally"
            value={device.normally}
            disabled={!canEdit}
            options={[
              ["closed", "closed"],
              ["open", "open"],
            ]}
            onCommit={(v) => put({ normally: v })}
          />
          {flow("Largest flow", "maxLpm", device.maxLpm)}
          <NumberField
            label="Kv"
            unit="m³/h at 1 bar"
            value={device.kv}
            min={0.01}
            max={100_000}
            disabled={!canEdit}
            hint={device.kv ? `Cv ${(device.kv / 0.865).toFixed(1)}` : "Kv = 0.865 × Cv"}
            onCommit={(v) => put({ kv: v })}
          />
          <ChoiceField
            label="Coil"
            value={device.coil ?? ""}
            disabled={!canEdit}
            options={[
              ["", "not recorded"],
              ["ac24", "24 V AC"],
              ["dcLatching", "latching DC"],
            ]}
            onCommit={(v) => put({ coil: v === "" ? undefined : v })}
          />
          <NumberField
            label="Holding current"
            unit="mA"
            value={device.solenoidMa}
            min={0}
            max={100_000}
            placeholder={`${TYPICAL_MA.masterValve}, typical`}
            disabled={!canEdit}
            onCommit={(v) => put({ solenoidMa: v })}
          />
        </>
      )}
      {device.kind === "pump" && (
        <>
          {flow("Minimum flow", "minFlowLpm", device.minFlowLpm)}
          {flow("Best efficiency at", "bestEfficiencyLpm", device.bestEfficiencyLpm)}
          <NumberField
            label="Equal pumps side by side"
            value={device.parallel ?? 1}
            min={1}
            max={20}
            whole
            required
            disabled={!canEdit}
            hint="curve and best efficiency are one pump's"
            onCommit={(v) => put({ parallel: v === 1 ? undefined : v })}
          />
          <NumberField
            label="Relay current"
            unit="mA"
            value={device.relayMa}
            min={0}
            max={100_000}
            placeholder={`${TYPICAL_MA.pumpRelay}, typical`}
            disabled={!canEdit}
            onCommit={(v) => put({ relayMa: v })}
          />
          <PointsField
            label="Curve"
            unit="m of head"
            rising
            required
            value={device.curve.map((p) => [p.flowLpm, p.headM])}
            onCommit={(points) => put({ curve: points.map(([flowLpm, headM]) => ({ flowLpm, headM })) })}
          />
          <PumpSheet device={device} />
        </>
      )}
      {device.kind === "pipe" && <PipeFields device={device} />}
      {device.kind === "fixedLoss" && (
        <NumberField
          label="Loss"
          value={device.lossKpa}
          quantity="pressure"
          system={units}
          min={0}
          max={10_000}
          required
          disabled={!canEdit}
          onCommit={(v) => put({ lossKpa: v })}
        />
      )}
      {device.kind === "regulator" && (
        <NumberField
          label="Set pressure"
          value={device.setKpa}
          quantity="pressure"
          system={units}
          min={0}
          max={10_000}
          required
          disabled={!canEdit}
          onCommit={(v) => put({ setKpa: v })}
        />
      )}
      {device.kind === "pressureSensor" && (
        <>
          <NumberField
            label="Low limit"
            value={device.lowKpa}
            quantity="pressure"
            system={units}
            min={0}
            max={10_000}
            disabled={!canEdit}
            onCommit={(v) => put({ lowKpa: v })}
          />
          <NumberField
            label="High limit"
            value={device.highKpa}
            quantity="pressure"
            system={units}
            min={0}
            max={10_000}
            disabled={!canEdit}
            onCommit={(v) => put({ highKpa: v })}
          />
        </>
      )}
      <LibraryPicker device={device} />
      {device.kind === "flowSensor" && (
        <p className="col-span-2 text-sm text-faint">Its constant, range and proving are on Sensors.</p>
      )}
      {device.kind === "pump" && (
        <p className="col-span-2 text-sm border-l-4 border-warning pl-2">
          <strong>Caution.</strong> Line-voltage and pump wiring: licensed electrician; power off and locked before
          opening an enclosure. A pump must not run against a closed valve.
        </p>
      )}
      {device.kind === "backflow" && (
        <p className="col-span-2 text-sm border-l-4 border-warning pl-2">
          <strong>Caution.</strong> Certified tester; never bypass; local plumbing and cross-connection rules decide.
        </p>
      )}
    </div>
  );
}

function PipeFields({ device }: { device: DeviceOf<"pipe"> }) {
  const { draft, edit, units, canEdit } = useWorkspace("draft", "edit", "units", "canEdit");
  const night = useNight();
  const put = (values: Patch<Device>): void => edit(patchDevice(device.id, values));
  const series = findSeries(device.material, device.series);
  const kind = series ? `${series.material}|${series.series}` : "other";
  const bore = insideDiameterMm(device);
  const fast = device.maxVelocityMs !== undefined && device.maxVelocityMs > 1.5;
  const owner = [...draft.pocs, ...draft.mainlines].find(
    (e) => e.devices?.some((d) => d.id === device.id) || ("pipes" in e && e.pipes.some((d) => d.id === device.id)),
  );
  const peak = night?.plan.peaks.find((p) => p.id === owner?.id)?.lpm ?? 0;
  const facts = pipeFacts(draft, device, peak);
  const better = series && peak > 0 ? sizeFor(series, peak, device.maxVelocityMs ?? 1.5) : null;
  return (
    <>
      <ChoiceField
        label="Pipe"
        value={kind}
        disabled={!canEdit}
        options={[
          ...PIPE_TABLE.map((s) => [`${s.material}|${s.series}`, `${s.material} ${s.series}`] as const),
          ...(series ? [] : [["other", `${device.material} ${device.series}`] as const]),
        ]}
        hint={series ? series.standard : "not in the pipe table"}
        onCommit={(v) => {
          const chosen = PIPE_TABLE.find((s) => `${s.material}|${s.series}` === v);
          if (chosen)
            put({
              material: chosen.material,
              series: chosen.series,
              nominal:
                chosen.sizes.find((z) => z.nominal === device.nominal)?.nominal ??
                chosen.sizes[4]?.nominal ??
                device.nominal,
            });
        }}
      />
      <ChoiceField
        label="Nominal size"
        value={device.nominal}
        disabled={!canEdit}
        options={[...new Set([...(series?.sizes.map((s) => s.nominal) ?? []), device.nominal])].map(
          (n) => [n, n] as const,
        )}
        hint={bore === null ? "inside diameter unknown" : `inside ${showQuantity(bore, "diameter", units)}`}
        onCommit={(v) => put({ nominal: v })}
      />
      <NumberField
        label="Length"
        value={device.lengthM}
        quantity="length"
        system={units}
        min={0}
        max={100_000}
        required
        disabled={!canEdit}
        onCommit={(v) => put({ lengthM: v })}
      />
      <NumberField
        label="Inside diameter, measured"
        value={device.insideDiameterMm}
        quantity="diameter"
        system={units}
        min={1}
        max={5000}
        disabled={!canEdit}
        onCommit={(v) => put({ insideDiameterMm: v })}
      />
      <NumberField
        label="Largest velocity"
        value={device.maxVelocityMs}
        quantity="velocity"
        system={units}
        min={0.1}
        max={2.1}
        placeholder="1.5 m/s"
        disabled={!canEdit}
        onCommit={(v) => put({ maxVelocityMs: v })}
      />
      <NumberField
        label="Hazen–Williams C"
        value={device.hazenWilliamsC}
        min={10}
        max={200}
        placeholder={String(pipeC({ material: device.material }))}
        disabled={!canEdit}
        hint="empty: the material's"
        onCommit={(v) => put({ hazenWilliamsC: v })}
      />
      <NumberField
        label="Local losses, sum of K"
        value={device.minorLossK}
        min={0}
        max={10_000}
        disabled={!canEdit}
        hint="bends, tees, gates: K·v²/2g"
        onCommit={(v) => put({ minorLossK: v })}
      />
      <TextField
        label="Reason for more than 1.5 m/s"
        value={device.maxVelocityReason ?? ""}
        disabled={!canEdit || !fast}
        onCommit={(v) => put({ maxVelocityReason: v.trim() === "" ? undefined : v.trim() })}
      />
      {facts && peak > 0 && (
        <p className="col-span-2 text-sm">
          At tonight's peak of {showQuantity(peak, "flow", units)}: {showQuantity(facts.velocityMs, "velocity", units)},
          losing {showNumber(facts.lossPer100, 2)} m a 100 m, {showQuantity(facts.lossKpa, "pressure", units)} in all.{" "}
          {better ? `The smallest size that keeps the velocity is ${better.nominal}.` : ""}
          {facts.surgeKpa !== null && (
            <>
              {" "}
              Stopped at once: up to {showQuantity(facts.surgeKpa, "pressure", units)} of surge
              {facts.ratingKpa !== null ? ` on a pipe rated ${showQuantity(facts.ratingKpa, "pressure", units)}` : ""}.
            </>
          )}
        </p>
      )}
      {facts?.caution && (
        <p className="col-span-2 text-sm border-l-4 border-warning pl-2">
          <strong>Caution.</strong>{" "}
          {facts.caution === "fast"
            ? "Closing valves on water faster than 1.5 m/s is how mains break."
            : "Static pressure and a sudden stop together would pass this pipe's rating."}{" "}
          Close slowly; an engineer decides.
        </p>
      )}
    </>
  );
}

/** Points of a curve, one a line. `rising`: the flows must rise from line to line. */
function PointsField({
  label,
  unit,
  value,
  rising,
  required,
  onCommit,
}: {
  label: string;
  unit: string;
  value: [number, number][];
  rising?: boolean;
  required?: boolean;
  onCommit: (points: [number, number][]) => void;
}) {
  const { canEdit } = useWorkspace("canEdit");
  const id = useId();
  const shown = value.map((p) => p.map((v) => Number(v.toFixed(3))).join(" ")).join("\n");
  const [text, setText] = useState(shown);
  const [error, setError] = useState<string | null>(null);
  useEffect(() => {
    setText(shown);
    setError(null);
  }, [shown]);
  const commit = (): void => {
    if (text === shown) {
      setError(null);
      return;
    }
    const rows = text
      .split("\n")
      .map((r) => r.trim())
      .filter((r) => r !== "")
      .map((r) => r.split(/[\s,;:]+/).map(Number));
    const wrong = rows.findIndex((r) => r.length !== 2 || r.some((v) => !Number.isFinite(v) || v < 0));
    if (wrong >= 0 || (required && rows.length === 0)) {
      setError(`Line ${Math.max(0, wrong) + 1}: write a flow in L/min and ${unit}, like "120 58".`);
      return;
    }
    if (rising && rows.some((r, i) => i > 0 && (r[0] as number) <= (rows[i - 1]?.[0] as number))) {
      setError("The flows must rise from line to line.");
      return;
    }
    setError(null);
    onCommit(rows as [number, number][]);
  };
  return (
    <div className="col-span-2">
      <label htmlFor={id} className="block text-sm text-faint">
        {label}: one point a line, L/min and {unit}
      </label>
      <TextArea
        id={id}
        rows={Math.max(2, value.length)}
        value={text}
        disabled={!canEdit}
        onChange={(e) => setText(e.target.value)}
        onBlur={commit}
        aria-invalid={error !== null}
      />
      {error && (
        <p role="alert" className="text-sm text-error">
          {error}
        </p>
      )}
    </div>
  );
}

/** The curve drawn, with what its data sheet sets: shut-off, best efficiency, the 115 % of it, minimum, end. */
function PumpSheet({ device }: { device: DeviceOf<"pump"> }) {
  const { units } = useWorkspace("units");
  const f = pumpFacts(device);
  const points = pumpPoints(device);
  const most = Math.max(f.endOfCurveLpm, f.mostLpm) * 1.05;
  const [W, H] = [330, 120];
  const x = (q: number): number => 4 + (q / most) * (W - 8);
  const y = (h: number): number => H - 16 - (h / (f.shutOffHeadM || 1)) * (H - 24);
  const flow = (q: number): string => showQuantity(q, "flow", units);
  const mark = (q: number, word: string, colour: string, row: number) => (
    <g>
      <line x1={x(q)} x2={x(q)} y1="4" y2={H - 16} stroke={colour} strokeDasharray="3 3" />
      <text
        x={Math.min(W - 2, x(q) + 3)}
        y={12 + 12 * row}
        fontSize="11"
        textAnchor={x(q) > W - 70 ? "end" : "start"}
        fill={colour}
      >
        {word}
      </text>
    </g>
  );
  return (
    <div className="col-span-2">
      <svg
        viewBox={`0 0 ${W} ${H}`}
        className="w-full max-w-md"
        role="img"
        aria-label={`Pump curve from ${f.shutOffHeadM.toFixed(0)} m at no flow to ${flow(f.endOfCurveLpm)}`}
      >
        {f.minFlowLpm !== null && (
          <rect x={x(0)} y="4" width={x(f.minFlowLpm) - x(0)} height={H - 20} fill="var(--bed)" />
        )}
        <path d={`M${x(0)} 4 V${H - 16} H${W - 4}`} fill="none" stroke="var(--ink)" />
        <polyline
          points={points
            .filter((p) => p.flowLpm <= f.endOfCurveLpm + 1e-9)
            .map((p) => `${x(p.flowLpm)},${y(p.headM)}`)
            .join(" ")}
          fill="none"
          stroke="var(--water)"
          strokeWidth="2.5"
        />
        {f.minFlowLpm !== null && mark(f.minFlowLpm, "minimum", "var(--caution)", 0)}
        {f.bestEfficiencyLpm !== null && mark(f.bestEfficiencyLpm, "best", "var(--ink)", 1)}
        {mark(f.mostLpm, f.bestEfficiencyLpm === null ? "end: ceiling" : "115 %: ceiling", "var(--alarm)", 2)}
        <text x={W - 4} y={H - 3} fontSize="11" textAnchor="end" fill="var(--faint)">
          {flow(most)}
        </text>
      </svg>
      <p className="text-sm">
        Shut-off head {showQuantity(f.shutOffHeadM, "length", units)} (
        {showQuantity(f.shutOffHeadM * 9.80665, "pressure", units)}) · end of curve {flow(f.endOfCurveLpm)} · runs out
        by {flow(f.runOutLpm)} ·{" "}
        {f.minFlowLpm === null ? "minimum flow not known" : `not under ${flow(f.minFlowLpm)} for more than a minute`}
        {f.count > 1 ? ` · ${f.count} together` : ""}
      </p>
    </div>
  );
}
