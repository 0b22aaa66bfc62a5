import { nth } from "../checked.ts";
import {
  ceilings,
  enteredWithoutReason,
  HARD_MAX_VELOCITY_MS,
  insideDiameterMm,
  USUAL_MAX_VELOCITY_MS,
} from "../ceilings/ceilings.ts";
import type { Waterworks } from "../network/waterworks.ts";
import { isCAssumed } from "../pipes/pipe-table.ts";
import { codeWords } from "../site-file/code-words.ts";
import type { Device, Pipe } from "../site-file/schema.ts";
import { showQuantity } from "../units/units.ts";
import { type Finding, finding, flowWords } from "./finding.ts";

export function checkWaterworks(w: Waterworks): Finding[] {
  const { site } = w;
  const found: Finding[] = [];
  const elements = [
    ...site.pocs.map((e, i) => ({ e, list: "pocs", i })),
    ...site.mainlines.map((e, i) => ({ e, list: "mainlines", i })),
  ];
  const own = new Map(ceilings(site).map((c) => [c.id, c]));
  for (const { e, list, i } of elements) {
    const computed = (own.get(e.id)?.rules ?? []).filter((r) => r.rule !== "entered").map((r) => r.lpm);
    const smallest = computed.length > 0 ? Math.min(...computed) : null;
    if (enteredWithoutReason(e, smallest))
      found.push(
        finding(
          "error",
          "ceilingWithoutReason",
          `${list}[${i}].ceilingLpm`,
          e.id,
          `${e.name}: the ceiling entered by hand, ${flowWords(site, e.ceilingLpm ?? 0)}, is above the computed ${flowWords(site, smallest ?? 0)} and has no reason. It is not taken; give a reason or lower it.`,
        ),
      );
  }
  site.sources.forEach((s, i) => {
    if (s.enabled !== false && !site.pocs.some((p) => p.sourceIds.includes(s.id)))
      found.push(finding("note", "sourceUnused", `sources[${i}]`, s.id, `${s.name} feeds no point of connection.`));
  });
  site.pocs.forEach((p, i) => {
    const path = `pocs[${i}]`;
    if (p.sourceIds.length === 0)
      found.push(
        finding("error", "noSource", `${path}.sourceIds`, p.id, `${p.name} draws on no source. Choose at least one.`),
      );
    const valve = p.devices.find((d) => d.kind === "masterValve");
    if (!valve)
      found.push(
        finding(
          "warning",
          "masterValveMissing",
          `${path}.devices`,
          p.id,
          `${p.name} has no master valve: a broken main cannot be shut off from there.`,
        ),
      );
    if (valve?.kind === "masterValve" && valve.normally === "open" && (p.offScheduleResponse ?? "notify") === "notify")
      found.push(
        finding(
          "warning",
          "openValveOnlyNotifies",
          `${path}.offScheduleResponse`,
          p.id,
          `${p.name}: its master valve is normally open, and off-schedule flow only notifies. ${flowWords(site, 200)} for 8 h is ${showQuantity(200 * 480, "volume", site.site.units)}; choose a response that closes it.`,
        ),
      );
    p.devices.forEach((d, j) => {
      found.push(...checkDevice(d, `${path}.devices[${j}]`));
    });
    const waters = p.sourceIds
      .map((id) => site.sources.find((s) => s.id === id))
      .filter((s) => s && s.enabled !== false);
    if (p.lockedOut)
      found.push(
        finding(
          "error",
          "lockedOut",
          `${path}.lockedOut`,
          p.id,
          `${p.name} is locked out. Find the cause and clear it in the Log.`,
        ),
      );
    const potable = new Set(waters.map((s) => s?.potable ?? s?.kind === "municipal"));
    if (potable.size > 1 && !p.approvedSeparation)
      found.push(
        finding(
          "warning",
          "crossConnection",
          `${path}.sourceIds`,
          p.id,
          `${p.name}: drinking water and other water can meet here. Priority is not separation; record the approved air gap or interconnection. Local plumbing rules decide.`,
        ),
      );
  });
  site.mainlines.forEach((m, i) => {
    const path = `mainlines[${i}]`;
    if (m.feedIds.length === 0)
      found.push(
        finding(
          "error",
          "noFeed",
          `${path}.feedIds`,
          m.id,
          `${m.name} is fed by nothing. Choose the point of connection or mainline that feeds it.`,
        ),
      );
    if (m.pipes.length === 0)
      found.push(
        finding("note", "noPipes", `${path}.pipes`, m.id, `${m.name} has no pipe entered, so no velocity limits it.`),
      );
    if (m.lockedOut)
      found.push(
        finding(
          "error",
          "lockedOut",
          `${path}.lockedOut`,
          m.id,
          `${m.name} is locked out. Find the cause and clear it in the Log.`,
        ),
      );
    [...m.pipes].forEach((d, j) => {
      found.push(...checkDevice(d, `${path}.pipes[${j}]`));
    });
    (m.devices ?? []).forEach((d, j) => {
      found.push(...checkDevice(d, `${path}.devices[${j}]`));
    });
    const pocs = (w.pocsAbove[i] ?? []).map((p) => site.pocs[p]);
    const waters = new Set(
      pocs
        .flatMap((p) => (p?.sourceIds ?? []).map((id) => site.sources.find((s) => s.id === id)))
        .filter((s) => s && s.enabled !== false)
        .map((s) => s?.potable ?? s?.kind === "municipal"),
    );
    if (waters.size > 1 && pocs.length > 1 && !pocs.some((p) => p?.approvedSeparation))
      found.push(
        finding(
          "warning",
          "crossConnection",
          `${path}.feedIds`,
          m.id,
          `${m.name}: drinking water and other water can meet in this main. Record the approved separation. Local plumbing rules decide.`,
        ),
      );
  });
  return found;
}

/** What someone found not in order there and nobody has found in order since. */
function checksThatFailed(device: Device, path: string): Finding[] {
  const latest = new Map((device.checks ?? []).map((c) => [c.check, c]));
  return [...latest.values()]
    .filter((c) => !c.ok)
    .map((c) =>
      finding(
        "warning",
        device.kind === "flowSensor" ? "sensorCheckFailed" : "deviceCheckFailed",
        `${path}.checks`,
        device.id,
        `${device.name ?? device.id}: "${codeWords(c.check)}" was found not in order by ${c.by}${c.note ? ` (${c.note})` : ""}. Mend it and check it again.`,
      ),
    );
}

function checkDevice(device: Device, path: string): Finding[] {
  return [...checksThatFailed(device, path), ...checkFigures(device, path)];
}

function checkFigures(device: Device, path: string): Finding[] {
  const label = device.name ?? device.id;
  if (device.kind === "pipe") return checkPipe(device, path);
  if (device.kind === "pump") {
    const flows = device.curve.map((p) => p.flowLpm);
    if (device.minFlowLpm !== undefined && device.minFlowLpm > Math.max(...flows))
      return [
        finding(
          "error",
          "pumpMinimumAboveCurve",
          `${path}.minFlowLpm`,
          device.id,
          `${label}: the minimum flow is beyond the end of its curve. Check the data sheet.`,
        ),
      ];
    if (flows.some((f, i) => i > 0 && f <= nth(flows, i - 1)))
      return [
        finding(
          "error",
          "pumpCurveOrder",
          `${path}.curve`,
          device.id,
          `${label}: the flows of the curve must rise from point to point.`,
        ),
      ];
  }
  return [];
}

function checkPipe(pipe: Pipe, path: string): Finding[] {
  const label = pipe.name ?? pipe.id;
  const found: Finding[] = [];
  if (insideDiameterMm(pipe) === null)
    found.push(
      finding(
        "warning",
        "unknownPipe",
        path,
        pipe.id,
        `${label}: ${pipe.material} ${pipe.series} ${pipe.nominal} is not in the pipe table, so no velocity limits it. Enter its measured inside diameter.`,
      ),
    );
  if (isCAssumed(pipe))
    found.push(
      finding(
        "warning",
        "unknownMaterial",
        `${path}.material`,
        pipe.id,
        `${label}: how rough ${pipe.material} is, is not known; C 150 of plastics is taken. Enter its Hazen–Williams C.`,
      ),
    );
  const v = pipe.maxVelocityMs ?? USUAL_MAX_VELOCITY_MS;
  if (v > HARD_MAX_VELOCITY_MS + 1e-9)
    found.push(
      finding(
        "error",
        "velocityTooHigh",
        `${path}.maxVelocityMs`,
        pipe.id,
        `${label}: ${v} m/s is above ${HARD_MAX_VELOCITY_MS} m/s. Closing valves on water that fast is how mains break.`,
      ),
    );
  else if (v > USUAL_MAX_VELOCITY_MS + 1e-9 && !pipe.maxVelocityReason?.trim())
    found.push(
      finding(
        "warning",
        "velocityWithoutReason",
        `${path}.maxVelocityMs`,
        pipe.id,
        `${label}: ${v} m/s is above ${USUAL_MAX_VELOCITY_MS} m/s without a reason.`,
      ),
    );
  return found;
}
