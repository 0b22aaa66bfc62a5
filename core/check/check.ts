import { ceilings, enteredWithoutReason, FLOW_TOLERANCE_LPM, HARD_MAX_VELOCITY_MS, insideDiameterMm, USUAL_MAX_VELOCITY_MS } from "../ceilings/ceilings.ts";
import { localDate } from "../calendar/wall-time.ts";
import { CapacityCalendar } from "../dispatch/capacity.ts";
import { neverRuns } from "../dispatch/never-runs.ts";
import { programStarts } from "../dispatch/queue.ts";
import { type Waterworks, waterworks } from "../network/waterworks.ts";
import { sensorRange } from "../sensors/sensor-range.ts";
import { expectedFlow } from "../site-file/expected-flow.ts";
import type { Device, Pipe, SiteFile, Station } from "../site-file/schema.ts";
import { showQuantity } from "../units/units.ts";

export type Severity = "error" | "warning" | "note";
export type Finding = { severity: Severity; code: string; path: string; subjectId: string; message: string };

/** Everything about a site that is wrong, doubtful or worth knowing, in the order of the work. Pure: needs no date. */
export function check(site: SiteFile): Finding[] {
  const w = waterworks(site);
  return [...checkWaterworks(w), ...checkSensors(w), ...checkStations(w), ...checkPrograms(w), ...checkPolicy(w)];
}

const finding = (severity: Severity, code: string, path: string, subjectId: string, message: string): Finding => ({ severity, code, path, subjectId, message });
const flowWords = (site: SiteFile, lpm: number): string => showQuantity(lpm, "flow", site.site.units, 1);

function checkWaterworks(w: Waterworks): Finding[] {
  const { site } = w;
  const found: Finding[] = [];
  const elements = [...site.pocs.map((e, i) => ({ e, list: "pocs", i })), ...site.mainlines.map((e, i) => ({ e, list: "mainlines", i }))];
  const own = new Map(ceilings(site).map((c) => [c.id, c]));
  for (const { e, list, i } of elements) {
    const computed = (own.get(e.id)?.rules ?? []).filter((r) => r.rule !== "entered").map((r) => r.lpm);
    const smallest = computed.length > 0 ? Math.min(...computed) : null;
    if (enteredWithoutReason(e, smallest))
      found.push(finding("error", "ceilingWithoutReason", `${list}[${i}].ceilingLpm`, e.id, `${e.name}: the ceiling entered by hand, ${flowWords(site, e.ceilingLpm ?? 0)}, is above the computed ${flowWords(site, smallest ?? 0)} and has no reason. It is not taken; give a reason or lower it.`));
  }
  site.sources.forEach((s, i) => {
    if (s.enabled !== false && !site.pocs.some((p) => p.sourceIds.includes(s.id))) found.push(finding("note", "sourceUnused", `sources[${i}]`, s.id, `${s.name} feeds no point of connection.`));
  });
  site.pocs.forEach((p, i) => {
    const path = `pocs[${i}]`;
    if (p.sourceIds.length === 0) found.push(finding("error", "noSource", `${path}.sourceIds`, p.id, `${p.name} draws on no source. Choose at least one.`));
    const valve = p.devices.find((d) => d.kind === "masterValve");
    if (!valve) found.push(finding("warning", "masterValveMissing", `${path}.devices`, p.id, `${p.name} has no master valve: a broken main cannot be shut off from there.`));
    if (valve?.kind === "masterValve" && valve.normally === "open" && (p.offScheduleResponse ?? "notify") === "notify")
      found.push(finding("warning", "openValveOnlyNotifies", `${path}.offScheduleResponse`, p.id, `${p.name}: its master valve is normally open, and off-schedule flow only notifies. 200 L/min for 8 h is 96,000 L; choose a response that closes it.`));
    p.devices.forEach((d, j) => { found.push(...checkDevice(d, `${path}.devices[${j}]`)); });
    const waters = p.sourceIds.map((id) => site.sources.find((s) => s.id === id)).filter((s) => s && s.enabled !== false);
    if (p.lockedOut) found.push(finding("warning", "lockedOut", `${path}.lockedOut`, p.id, `${p.name} is locked out. Find the cause and clear it in the Log.`));
    const potable = new Set(waters.map((s) => s?.potable ?? s?.kind === "municipal"));
    if (potable.size > 1 && !p.approvedSeparation)
      found.push(finding("warning", "crossConnection", `${path}.sourceIds`, p.id, `${p.name}: drinking water and other water can meet here. Priority is not separation; record the approved air gap or interconnection. Local plumbing rules decide.`));
  });
  site.mainlines.forEach((m, i) => {
    const path = `mainlines[${i}]`;
    if (m.feedIds.length === 0) found.push(finding("error", "noFeed", `${path}.feedIds`, m.id, `${m.name} is fed by nothing. Choose the point of connection or mainline that feeds it.`));
    if (m.pipes.length === 0) found.push(finding("note", "noPipes", `${path}.pipes`, m.id, `${m.name} has no pipe entered, so no velocity limits it.`));
    if (m.lockedOut) found.push(finding("warning", "lockedOut", `${path}.lockedOut`, m.id, `${m.name} is locked out. Find the cause and clear it in the Log.`));
    [...m.pipes].forEach((d, j) => { found.push(...checkDevice(d, `${path}.pipes[${j}]`)); });
    (m.devices ?? []).forEach((d, j) => { found.push(...checkDevice(d, `${path}.devices[${j}]`)); });
    const pocs = (w.pocsAbove[i] ?? []).map((p) => site.pocs[p]);
    const waters = new Set(pocs.flatMap((p) => (p?.sourceIds ?? []).map((id) => site.sources.find((s) => s.id === id))).filter((s) => s && s.enabled !== false).map((s) => s?.potable ?? s?.kind === "municipal"));
    if (waters.size > 1 && pocs.length > 1 && !pocs.some((p) => p?.approvedSeparation))
      found.push(finding("warning", "crossConnection", `${path}.feedIds`, m.id, `${m.name}: drinking water and other water can meet in this main. Record the approved separation. Local plumbing rules decide.`));
  });
  return found;
}

function checkDevice(device: Device, path: string): Finding[] {
  const label = device.name ?? device.id;
  if (device.kind === "pipe") return checkPipe(device, path);
  if (device.kind === "pump") {
    const flows = device.curve.map((p) => p.flowLpm);
    if (device.minFlowLpm !== undefined && device.minFlowLpm > Math.max(...flows))
      return [finding("error", "pumpMinimumAboveCurve", `${path}.minFlowLpm`, device.id, `${label}: the minimum flow is beyond the end of its curve. Check the data sheet.`)];
    if (flows.some((f, i) => i > 0 && f <= (flows[i - 1] as number)))
      return [finding("error", "pumpCurveOrder", `${path}.curve`, device.id, `${label}: the flows of the curve must rise from point to point.`)];
  }
  return [];
}

function checkPipe(pipe: Pipe, path: string): Finding[] {
  const label = pipe.name ?? pipe.id;
  const found: Finding[] = [];
  if (insideDiameterMm(pipe) === null)
    found.push(finding("warning", "unknownPipe", path, pipe.id, `${label}: ${pipe.material} ${pipe.series} ${pipe.nominal} is not in the pipe table, so no velocity limits it. Enter its measured inside diameter.`));
  const v = pipe.maxVelocityMs ?? USUAL_MAX_VELOCITY_MS;
  if (v > HARD_MAX_VELOCITY_MS + 1e-9)
    found.push(finding("error", "velocityTooHigh", `${path}.maxVelocityMs`, pipe.id, `${label}: ${v} m/s is above ${HARD_MAX_VELOCITY_MS} m/s. Closing valves on water that fast is how mains break.`));
  else if (v > USUAL_MAX_VELOCITY_MS + 1e-9 && !pipe.maxVelocityReason?.trim())
    found.push(finding("warning", "velocityWithoutReason", `${path}.maxVelocityMs`, pipe.id, `${label}: ${v} m/s is above ${USUAL_MAX_VELOCITY_MS} m/s without a reason.`));
  return found;
}

function checkSensors(w: Waterworks): Finding[] {
  const { site } = w;
  const found: Finding[] = [];
  site.pocs.forEach((p, i) => {
    const j = p.devices.findIndex((d) => d.kind === "flowSensor");
    const sensor = p.devices[j];
    const mains = site.mainlines.flatMap((_, m) => ((w.pocsAbove[m] ?? []).includes(i) ? [m] : []));
    const behind = site.stations.filter((_, s) => mains.includes(w.stationMainline[s] as number));
    if (sensor?.kind !== "flowSensor") {
      if (behind.length > 0) found.push(finding("warning", "noSensor", `pocs[${i}].devices`, p.id, `${p.name} has no flow sensor: nothing behind it can be learned or watched by flow.`));
      return;
    }
    const path = `pocs[${i}].devices[${j}]`;
    const { minLpm, maxLpm } = sensorRange(sensor);
    const label = sensor.name ?? sensor.id;
    if (minLpm === null && maxLpm === null) found.push(finding("warning", "sensorRangeUnknown", path, sensor.id, `${label}: enter its inside diameter or its smallest and largest flow, so that Presa can tell what it sees.`));
    const unseen = behind.filter((s) => s.monitored !== false && minLpm !== null && (expectedFlow(s)?.lpm ?? Number.POSITIVE_INFINITY) < minLpm - FLOW_TOLERANCE_LPM);
    if (unseen.length > 0 && minLpm !== null)
      found.push(finding("warning", "stationUnderSensorMinimum", path, sensor.id, `${label} sees nothing under ${flowWords(site, minLpm)}: it cannot watch ${unseen.map((s) => `${s.number} ${s.name}`).join(", ")}.`));
    const ceiling = w.pocCeiling[i] as number;
    if (maxLpm !== null && p.burstLimitLpm !== undefined && p.burstLimitLpm > maxLpm) found.push(finding("warning", "burstAboveSensor", `pocs[${i}].burstLimitLpm`, p.id, `${p.name}: the burst limit ${flowWords(site, p.burstLimitLpm)} is above what ${label} can read, ${flowWords(site, maxLpm)}; it would never trip.`));
    if (minLpm !== null && p.offScheduleLimitLpm !== undefined && p.offScheduleLimitLpm < minLpm) found.push(finding("warning", "offScheduleUnderSensor", `pocs[${i}].offScheduleLimitLpm`, p.id, `${p.name}: the off-schedule limit ${flowWords(site, p.offScheduleLimitLpm)} is under what ${label} can see, ${flowWords(site, minLpm)}.`));
    if (p.burstLimitLpm !== undefined && p.burstLimitLpm < ceiling && Number.isFinite(ceiling)) found.push(finding("warning", "burstUnderCeiling", `pocs[${i}].burstLimitLpm`, p.id, `${p.name}: the burst limit ${flowWords(site, p.burstLimitLpm)} is under the ceiling ${flowWords(site, ceiling)}; ordinary watering could trip it.`));
  });
  return found;
}

function checkStations(w: Waterworks): Finding[] {
  const { site } = w;
  const found: Finding[] = [];
  const numbers = new Map<string, Station>();
  const alone = new CapacityCalendar(w, "2000-01-01");
  site.stations.forEach((s, i) => {
    const path = `stations[${i}]`;
    const who = `Station ${s.number} ${s.name}`;
    const key = `${s.controllerId}:${s.number}`;
    const twin = numbers.get(key);
    if (twin) found.push(finding("error", "duplicateStationNumber", `${path}.number`, s.id, `${who}: number ${s.number} is already used by ${twin.name} on the same controller. Give one of them another number.`));
    else numbers.set(key, s);
    const flow = expectedFlow(s);
    if (!flow) found.push(finding("error", "noFlow", path, s.id, `${who} has no flow figure. Enter its design flow, or learn it.`));
    if (s.lockedOut) found.push(finding("warning", "lockedOut", `${path}.lockedOut`, s.id, `${who} is locked out. Find the cause and clear it in the Log.`));
    const mainline = w.stationMainline[i] as number;
    const group = alone.groupOfController[w.stationController[i] as number] as number;
    if (flow && !alone.assignment(group, null).tryAdd(mainline, flow.lpm)) {
      const reachable = alone.assignment(group, null).tryAdd(mainline, 1e-3);
      const name = site.mainlines[mainline]?.name ?? "";
      if (reachable) found.push(finding("error", "stationAboveCeiling", path, s.id, `${who} alone uses ${flowWords(site, flow.lpm)}, more than can reach it through ${name}. Correct the flow, or water it from a larger main.`));
      else if (!s.lockedOut) found.push(finding("error", "noSupply", path, s.id, `${who}: no open way from an enabled source through ${name}.`));
    }
  });
  return found;
}

function checkPrograms(w: Waterworks): Finding[] {
  const { site } = w;
  const found: Finding[] = [];
  const inProgram = new Set(site.programs.flatMap((p) => p.runs.filter((r) => r.minutes > 0).map((r) => r.stationId)));
  site.programs.forEach((p, i) => {
    const path = `programs[${i}]`;
    const noDays = p.days.type === "weekdays" && p.days.days.length === 0;
    if (noDays) found.push(finding("error", "noDays", `${path}.days`, p.id, `${p.name} has no days: it never runs. Choose weekdays, odd or even dates, or an interval.`));
    if (p.starts.length === 0) found.push(finding("warning", "noStarts", `${path}.starts`, p.id, `${p.name} has no start time: it never runs.`));
    if (p.starts.length > 1) found.push(finding("note", "secondStart", `${path}.starts`, p.id, `${p.name} starts ${p.starts.length} times a day (${p.starts.join(", ")}): is the second start meant?`));
    if (p.runs.length === 0) found.push(finding("note", "noRuns", `${path}.runs`, p.id, `${p.name} has no stations.`));
    if (p.from !== undefined && p.until !== undefined && p.until < p.from) found.push(finding("error", "datesReversed", `${path}.until`, p.id, `${p.name} ends before it begins.`));
    p.runs.forEach((r, j) => {
      if (r.minutes === 0) found.push(finding("note", "zeroMinutes", `${path}.runs[${j}].minutes`, p.id, `${p.name}: ${site.stations.find((s) => s.id === r.stationId)?.name ?? r.stationId} has 0 minutes and is out.`));
    });
  });
  const unscheduled = site.stations.filter((s) => !inProgram.has(s.id));
  for (const s of unscheduled) found.push(finding("note", "notInProgram", `stations[${site.stations.indexOf(s)}]`, s.id, `Station ${s.number} ${s.name} is in no program.`));
  for (const [i, c] of site.controllers.entries()) if (c.off) found.push(finding("warning", "controllerOff", `controllers[${i}].off`, c.id, `Controller ${c.name} is off: its programs do not run.`));
  if (site.site.holdUntil === "indefinite") found.push(finding("warning", "holdWithoutEnd", "site.holdUntil", site.site.id, "The site is off with no end set."));
  found.push(...pumpMinimums(w));
  return found;
}

/** Stations that no company brings over their pump's minimum on any night of the programs as they stand. */
function pumpMinimums(w: Waterworks): Finding[] {
  const { site } = w;
  const always: SiteFile = {
    ...site,
    site: { ...site.site, holdUntil: undefined },
    programs: site.programs.map((p) => ({ ...p, from: undefined, until: undefined, days: { type: "interval", everyDays: 1, anchor: "2000-01-01" } })),
  };
  const ww = waterworks(always);
  const date = localDate(site.site.timeZone, Date.UTC(2001, 5, 15) / 1000);
  const starts = programStarts(ww, date);
  const capacity = new CapacityCalendar(ww, date);
  const named = new Set<number>();
  for (const start of starts)
    for (const e of start.entries) if (neverRuns(ww, capacity, starts, e, new Set()) === "pumpMinimum") named.add(e.station);
  return [...named].map((s) => {
    const station = site.stations[s] as Station;
    return finding("warning", "pumpMinimum", `stations[${s}]`, station.id, `Station ${station.number} ${station.name} can never keep its pump over the minimum flow, whatever may run beside it. Raise the number at once, or water it without the pump.`);
  });
}

function checkPolicy(w: Waterworks): Finding[] {
  const { policy, site } = w.site;
  const found: Finding[] = [];
  if (policy.basis === "graded" && (policy.bands ?? []).length === 0) found.push(finding("warning", "noBands", "policy.bands", site.id, "The limits are graded, but no band is entered; the plain percentages hold."));
  if (policy.persistenceS < 10) found.push(finding("note", "persistenceShort", "policy.persistenceS", site.id, `A persistence of ${policy.persistenceS} s trips on any gust of pressure.`));
  return found;
}
