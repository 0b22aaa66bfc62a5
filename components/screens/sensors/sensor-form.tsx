"use client";
import { Figure } from "@/components/draft/figure";
import type { Patch } from "@/core/site-file/patch";
import { useState } from "react";
import { ChoiceField, NumberField, TextField, TickField } from "@/components/kit/fields";
import { replaceDevice } from "@/components/draft/waterworks-edits";
import { LibraryPicker } from "@/components/screens/waterworks/library-picker";
import { useWorkspace } from "@/components/draft/site-draft";
import { findSeries, nominalMm, PIPE_TABLE } from "@/core/pipes/pipe-table";
import { effectiveKGpm, flowFromHz, sensorRange } from "@/core/sensors/sensor-range";
import type { Device, FlowSensor } from "@/core/site-file/schema";
import { LITRES_PER_US_GALLON, showNumber, showQuantity } from "@/core/units/units";
import {
  type Frequency,
  keptK,
  keptPulse,
  type Pulse,
  shownK,
  shownPulse,
  VOLUME_WORDS,
  type VolumeUnit,
} from "./sheet-units";

type Kind = "frequency" | "insertion" | "pulse";

/** A sensor's data sheet in the sheet's own unit, with the formula alive beside it. */
export function SensorForm({ sensor }: { sensor: FlowSensor }) {
  const { edit, units, canEdit } = useWorkspace("edit", "units", "canEdit");
  const { output } = sensor;
  const put = (values: Patch<FlowSensor>): void =>
    edit(replaceDevice(sensor.id, <T extends Device>(d: T): T => ({ ...d, ...values }) as T));
  const range = sensorRange(sensor);
  const byReference = output.type === "frequency" && output.referenceDiameterMm !== undefined;
  const kind: Kind = output.type === "frequency" && byReference ? "insertion" : output.type;
  const turn = (to: Kind): void => {
    if (to === "pulse") {
      put({ output: { type: "pulse", litresPerPulse: 10, sheetUnit: "L" } });
      return;
    }
    const before: Frequency = output.type === "frequency" ? output : { type: "frequency", kGpm: 1, offsetHz: 0 };
    const { insideDiameterMm, referenceDiameterMm, ...plain } = before;
    put({
      output:
        to === "frequency"
          ? plain
          : {
              ...plain,
              referenceDiameterMm: referenceDiameterMm ?? 100,
              insideDiameterMm: insideDiameterMm ?? sensor.insideDiameterMm ?? 100,
            },
    });
  };
  return (
    <div className="grid grid-cols-2 gap-3 self-start">
      <TextField
        label="Name"
        value={sensor.name ?? ""}
        placeholder="Flow sensor"
        disabled={!canEdit}
        onCommit={(v) => put({ name: v.trim() || undefined })}
      />
      <ChoiceField
        label="Kind"
        value={kind}
        disabled={!canEdit}
        options={[
          ["frequency", "body with frequency (K, offset)"],
          ["insertion", "insertion, in a pipe"],
          ["pulse", "pulses (volume each)"],
        ]}
        onCommit={turn}
      />
      {output.type === "frequency" ? (
        <FrequencyFields output={output} put={(o) => put({ output: o })} />
      ) : (
        <PulseFields output={output} put={(o) => put({ output: o })} />
      )}
      {kind === "insertion" && output.type === "frequency" ? (
        <InsertionFields output={output} put={(o) => put({ output: o, insideDiameterMm: o.insideDiameterMm })} />
      ) : (
        <Figure of={sensor} at="insideDiameterMm" put={put} label="Inside diameter of its pipe" quantity="diameter" />
      )}
      <Figure
        of={sensor}
        at="minLpm"
        put={put}
        label="Smallest flow"
        quantity="flow"
        whenEmpty={range.minLpm ?? undefined}
        hint={`empty: ${showQuantity(sensor.vMinMs ?? 0.3, "velocity", units)} in its bore`}
      />
      <Figure
        of={sensor}
        at="maxLpm"
        put={put}
        label="Largest flow"
        quantity="flow"
        whenEmpty={range.maxLpm ?? undefined}
        hint={`empty: ${showQuantity(sensor.vMaxMs ?? 6, "velocity", units)} in its bore`}
      />
      <Formula sensor={sensor} />
      <LibraryPicker device={sensor} />
    </div>
  );
}

function FrequencyFields({ output, put }: { output: Frequency; put: (o: Frequency) => void }) {
  const { canEdit } = useWorkspace("canEdit");
  const metric = output.sheetUnit === "lpm";
  return (
    <>
      <NumberField
        label={`K, ${metric ? "L/min" : "US gal/min"} per Hz`}
        value={Number(shownK(output).toPrecision(9))}
        min={0.0001}
        max={100_000}
        required
        disabled={!canEdit}
        onCommit={(v) => put({ ...output, kGpm: keptK(v ?? shownK(output), output.sheetUnit) })}
      />
      <NumberField
        label="Offset, Hz"
        value={output.offsetHz}
        min={-1000}
        max={1000}
        required
        disabled={!canEdit}
        onCommit={(v) => put({ ...output, offsetHz: v ?? 0 })}
      />
      <ChoiceField
        label="The sheet gives K for"
        value={output.sheetUnit ?? "gpm"}
        disabled={!canEdit}
        options={[
          ["gpm", "US gal/min"],
          ["lpm", "L/min"],
        ]}
        onCommit={(v) => put({ ...output, sheetUnit: v })}
      />
    </>
  );
}

function PulseFields({ output, put }: { output: Pulse; put: (o: Pulse) => void }) {
  const { canEdit } = useWorkspace("canEdit");
  const unit: VolumeUnit = output.sheetUnit ?? "L";
  const reciprocal = output.sheetReciprocal === true;
  return (
    <>
      <NumberField
        label={reciprocal ? `Pulses per ${VOLUME_WORDS[unit]}` : `${VOLUME_WORDS[unit]} per pulse`}
        value={Number(shownPulse(output).toPrecision(9))}
        min={1e-6}
        max={1_000_000}
        required
        disabled={!canEdit}
        onCommit={(v) => put({ ...output, litresPerPulse: keptPulse(v ?? shownPulse(output), unit, reciprocal) })}
      />
      <ChoiceField
        label="The sheet's unit"
        value={unit}
        disabled={!canEdit}
        options={Object.entries(VOLUME_WORDS) as [VolumeUnit, string][]}
        onCommit={(v) => put({ ...output, sheetUnit: v })}
      />
      <TickField
        label="given as pulses a volume"
        checked={reciprocal}
        disabled={!canEdit}
        onCommit={(v) => put({ ...output, sheetReciprocal: v ? true : undefined })}
      />
    </>
  );
}

/** K scales with the area of the bore it sits in; nominal taken for inside is the usual mistake, so its error is shown. */
function InsertionFields({ output, put }: { output: Frequency; put: (o: Frequency) => void }) {
  const { units, canEdit } = useWorkspace("units", "canEdit");
  const [kind, setKind] = useState("PVC|SCH40");
  const [material = "", seriesName = ""] = kind.split("|");
  const series = findSeries(material, seriesName);
  const bore = output.insideDiameterMm ?? 0;
  const picked = series?.sizes.find((s) => Math.abs(s.insideMm - bore) < 0.05);
  const nominal = picked ? nominalMm(picked.nominal) : null;
  return (
    <>
      <NumberField
        label="Diameter that the sheet's K is for"
        value={output.referenceDiameterMm}
        quantity="diameter"
        system={units}
        min={5}
        max={5000}
        required
        disabled={!canEdit}
        onCommit={(v) => put({ ...output, referenceDiameterMm: v })}
      />
      <ChoiceField
        label="Pipe it sits in"
        value={kind}
        disabled={!canEdit}
        options={PIPE_TABLE.map((s) => [`${s.material}|${s.series}`, `${s.material} ${s.series}`] as const)}
        onCommit={setKind}
      />
      <ChoiceField
        label="Nominal size"
        value={picked?.nominal ?? ""}
        disabled={!canEdit}
        options={[["", picked ? "" : "measured"], ...(series?.sizes ?? []).map((s) => [s.nominal, s.nominal] as const)]}
        onCommit={(v) => {
          const size = series?.sizes.find((s) => s.nominal === v);
          if (size) put({ ...output, insideDiameterMm: Number(size.insideMm.toFixed(4)) });
        }}
      />
      <NumberField
        label="Its inside diameter"
        value={output.insideDiameterMm}
        quantity="diameter"
        system={units}
        min={5}
        max={5000}
        required
        disabled={!canEdit}
        hint="from the table, or measured"
        onCommit={(v) => put({ ...output, insideDiameterMm: v })}
      />
      <p className="self-end pb-1 text-sm">
        K here is{" "}
        <strong>
          {showNumber(effectiveKGpm(output) * (output.sheetUnit === "lpm" ? LITRES_PER_US_GALLON : 1), 4)}
        </strong>{" "}
        = K × (inside ÷ reference)².
      </p>
      {nominal !== null && (
        <p className="col-span-2 text-sm border-l-4 border-warning pl-2">
          With the nominal {picked?.nominal} ({showQuantity(nominal, "diameter", units)}) taken for its inside diameter,
          every flow would read{" "}
          <strong>
            {nominal > bore ? "+" : ""}
            {(((nominal / bore) ** 2 - 1) * 100).toFixed(1)} %
          </strong>{" "}
          wrong.
        </p>
      )}
    </>
  );
}

/** Type a frequency, read the flow. */
function Formula({ sensor: { output } }: { sensor: FlowSensor }) {
  const { units } = useWorkspace("units");
  const [hz, setHz] = useState<number | undefined>(20);
  const flow = flowFromHz(output, hz ?? 0);
  return (
    <div className="col-span-2 border-t border-base-300 py-2">
      <div className="flex items-end gap-3">
        <div className="w-28">
          <NumberField label="Try a frequency" unit="Hz" value={hz} min={0} max={10_000} onCommit={setHz} />
        </div>
        <output className="text-lg pb-1" aria-label="Flow at that frequency">
          reads <strong>{showQuantity(flow, "flow", units, 1)}</strong>
        </output>
      </div>
      <p className="text-sm text-faint mt-1">
        {output.type === "frequency"
          ? `${showNumber(effectiveKGpm(output), 4)} × (${hz ?? 0} + ${output.offsetHz}) = ${showNumber(flow / LITRES_PER_US_GALLON, 2)} US gal/min = ${showNumber(flow, 1)} L/min, and 0 at 0 Hz.`
          : `${showNumber(output.litresPerPulse, 3)} L × ${hz ?? 0} × 60 = ${showNumber(flow, 1)} L/min. ${flow > 0 ? `At that flow one pulse every ${showNumber(1 / (hz ?? 1), 2)} s; judged over 20 pulses.` : ""}`}
      </p>
    </div>
  );
}
