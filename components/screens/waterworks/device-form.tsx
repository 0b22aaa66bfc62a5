"use client";
import { Figure } from "@/components/draft/figure";
import type { Patch } from "@/core/site-file/patch";
import { ChoiceField, NumberField, TextField } from "@/components/kit/fields";
import { useNight, useWorkspace } from "@/components/draft/site-draft";
import { insideDiameterMm, USUAL_MAX_VELOCITY_MS } from "@/core/ceilings/ceilings";
import { findSeries, PIPE_TABLE, pipeC } from "@/core/pipes/pipe-table";
import { pipeFacts } from "@/core/hydraulics/main-facts";
import { sizeFor } from "@/core/pipes/sizing";
import type { Device, DeviceOf } from "@/core/site-file/schema";
import { showNumber, showQuantity } from "@/core/units/units";
import { TYPICAL_MA } from "@/core/wiring/load";
import { patchDevice } from "../../draft/waterworks-edits";
import { PointsField } from "./points-field";
import { PumpSheet } from "./pump-sheet";
import { LibraryPicker } from "./library-picker";
import { DEVICE_WORDS } from "../../words/rule-words";

/** The data sheet of one device: every field says its unit and range. */
export function DeviceForm({ device }: { device: Device }) {
  const { edit, units, canEdit } = useWorkspace("edit", "units", "canEdit");
  const put = (values: Patch<Device>): void => edit(patchDevice(device.id, values));
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
          <Figure of={device} at="continuousMaxLpm" put={put} label="Continuous rating" quantity="flow" />
          <Figure of={device} at="safeMaxLpm" put={put} label="Safe maximum" quantity="flow" />
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
          <Figure of={device} at="maxLpm" put={put} label="Largest flow" quantity="flow" />
          <PointsField
            label="Loss by flow"
            quantity="pressure"
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
          <Figure of={device} at="maxLpm" put={put} label="Largest flow" quantity="flow" />
          <Figure
            of={device}
            at="kv"
            put={put}
            label="Kv"
            unit="m³/h at 1 bar"
            min={0.01}
            max={100_000}
            hint={device.kv ? `Cv ${(device.kv / 0.865).toFixed(1)}` : "Kv = 0.865 × Cv"}
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
          <Figure
            of={device}
            at="solenoidMa"
            put={put}
            label="Holding current"
            unit="mA"
            min={0}
            max={100_000}
            placeholder={`${TYPICAL_MA.masterValve}, typical`}
          />
        </>
      )}
      {device.kind === "pump" && (
        <>
          <Figure of={device} at="minFlowLpm" put={put} label="Minimum flow" quantity="flow" />
          <Figure of={device} at="bestEfficiencyLpm" put={put} label="Best efficiency at" quantity="flow" />
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
          <Figure
            of={device}
            at="relayMa"
            put={put}
            label="Relay current"
            unit="mA"
            min={0}
            max={100_000}
            placeholder={`${TYPICAL_MA.pumpRelay}, typical`}
          />
          <PointsField
            label="Curve"
            quantity="length"
            of="of head"
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
        <Figure of={device} at="lossKpa" put={put} label="Loss" quantity="pressure" required />
      )}
      {device.kind === "regulator" && (
        <Figure of={device} at="setKpa" put={put} label="Set pressure" quantity="pressure" required />
      )}
      {device.kind === "pressureSensor" && (
        <>
          <Figure of={device} at="lowKpa" put={put} label="Low limit" quantity="pressure" />
          <Figure of={device} at="highKpa" put={put} label="High limit" quantity="pressure" />
          <p className="col-span-2 text-sm text-faint">How long and what then: on Limits, Connections and mains.</p>
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
      <Figure of={device} at="lengthM" put={put} label="Length" quantity="length" required />
      <Figure
        of={device}
        at="insideDiameterMm"
        put={put}
        label="Inside diameter, measured"
        quantity="diameter"
        min={1}
      />
      <Figure
        of={device}
        at="maxVelocityMs"
        put={put}
        label="Largest velocity"
        quantity="velocity"
        min={0.1}
        max={2.1}
        whenEmpty={USUAL_MAX_VELOCITY_MS}
      />
      <Figure
        of={device}
        at="hazenWilliamsC"
        put={put}
        label="Hazen–Williams C"
        min={10}
        max={200}
        whenEmpty={pipeC({ material: device.material })}
        hint="empty: the material's"
      />
      <Figure
        of={device}
        at="minorLossK"
        put={put}
        label="Local losses, sum of K"
        min={0}
        max={10_000}
        hint="bends, tees, gates: K·v²/2g"
      />
      <TextField
        label={`Reason for more than ${showQuantity(1.5, "velocity", units)}`}
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
