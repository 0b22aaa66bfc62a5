import type { LearningMessage, LearningRun } from "../../contracts/learning.ts";
import { type EventMessage, type ReadingMessage, totalLpm } from "../../core/field/messages.ts";
import { REFUSAL_REASONS, type RefusalReason } from "../../core/learn/refusals.ts";
import type { SiteFile } from "../../core/site-file/schema.ts";
import { flowsBetween, type GatewayRow, lastEvent } from "../db/field.ts";
import { insertLearningResult, runningThere, runOfOrder, updateLearningRun } from "../db/learning.ts";
import { tell } from "../db/listen.ts";
import { heavy } from "../heavy/pool.ts";

/** What of one run at the controllers is known in this process: which station is open, for whoever watches. */
type Watched = { runId: string; stationId: string | null };
const watched = new Map<string, Watched | null>();

/** Readings of a site that learns, for whoever watches, second by second. */
export async function tellSamples(gateway: GatewayRow, readings: readonly ReadingMessage[]): Promise<void> {
  if (readings.length === 0) return;
  if (!watched.has(gateway.siteId)) {
    const run = await runningThere(gateway.siteId);
    watched.set(gateway.siteId, run && { runId: run.id, stationId: null });
  }
  const of = watched.get(gateway.siteId);
  if (!of) return;
  const rows = readings.map((r): [number, number, 0 | 1] => [Math.round(Date.parse(r.at) / 1000), totalLpm(r.flow), 0]);
  for (let i = 0; i < rows.length; i += 100)
    await say(of.runId, { type: "samples", stationId: of.stationId, rows: rows.slice(i, i + 100) });
}

const isReason = (code: string): code is RefusalReason => (REFUSAL_REASONS as readonly string[]).includes(code);
const say = (runId: string, message: LearningMessage): Promise<void> => tell(`learning_${runId}`, message);

/**
 * What the controllers tell of learning, in order: their own readings become results by the same steady test as on the bench (handbook#11-controllers). In the transaction
 * that takes the events in.
 */
export async function hearLearning(
  gateway: GatewayRow,
  file: SiteFile,
  events: readonly EventMessage[],
): Promise<void> {
  const stations = new Set(file.stations.map((s) => s.id));
  for (const e of events) {
    if (e.order === undefined || !/^learn/.test(e.type)) continue;
    // Of a station that is not here nothing can be kept, and the stream goes on.
    if (e.subject !== "" && /^(learned|learnOpens|learnRefuses|learnLeaves)$/.test(e.type) && !stations.has(e.subject))
      continue;
    const run = await runOfOrder(gateway.siteId, e.order);
    if (run) await hear(gateway, file, run, e);
  }
}

async function hear(gateway: GatewayRow, file: SiteFile, run: LearningRun, e: EventMessage): Promise<void> {
  switch (e.type) {
    case "learnBegins":
      await updateLearningRun(run.id, { state: "running", startAt: new Date(e.at) });
      watched.set(gateway.siteId, { runId: run.id, stationId: null });
      return;
    case "learnRests": {
      if (!e.rest) return;
      const { blind, ...rest } = e.rest;
      const baseline = { ...rest, ...(blind === undefined ? {} : { blind }) };
      await updateLearningRun(run.id, { baseline: JSON.stringify([...run.baseline, baseline]) });
      await say(run.id, { type: "baseline", baseline });
      return;
    }
    case "learnRefuses": {
      const reasons = e.reason.split(" ").filter(isReason);
      await updateLearningRun(run.id, {
        refused: JSON.stringify([
          ...run.refused.filter((r) => r.stationId !== e.subject),
          { stationId: e.subject, reasons },
        ]),
      });
      await say(run.id, { type: "refused", stationId: e.subject, reasons });
      return;
    }
    case "learnLeaves":
      await updateLearningRun(run.id, { leftIds: [...run.leftIds, e.subject] });
      await say(run.id, { type: "left", count: 1 });
      return;
    case "learnOpens":
      watched.set(gateway.siteId, { runId: run.id, stationId: e.subject });
      await say(run.id, { type: "opens", stationId: e.subject });
      return;
    case "learned":
      await result(gateway, file, run, e);
      return;
    case "learnEnds": {
      watched.set(gateway.siteId, null);
      const seconds = Math.max(0, Math.round((Date.parse(e.at) - run.startAt.getTime()) / 1000));
      const litres = e.litres ?? 0;
      const state = e.reason === "done" ? "done" : "stopped";
      await updateLearningRun(run.id, { state, endedAt: new Date(e.at), seconds, litres });
      await say(run.id, { type: "ended", state, seconds, litres, end: true });
    }
  }
}

/** A station's figure from the stream; as the controller told it where the stream has it not (pulses are counted there, and holes are holes). */
async function result(gateway: GatewayRow, file: SiteFile, run: LearningRun, e: EventMessage): Promise<void> {
  const opened = await lastEvent(gateway.siteId, "learnOpens", e.subject, new Date(e.at));
  const rows = opened ? await flowsBetween(gateway.siteId, opened, new Date(e.at)) : [];
  const told = e.learned;
  const byDifference = (told?.companionIds?.length ?? 0) > 0;
  const own =
    opened && !byDifference
      ? await heavy(gateway.organisationId, "learnedThere", [
          file,
          e.subject,
          rows,
          { from: opened.getTime() / 1000, to: Date.parse(e.at) / 1000 },
        ])
      : null;
  const { companionIds, ...figures } = told ?? { companionIds: undefined };
  const theirs =
    told && "verdict" in figures
      ? { stationId: e.subject, ...figures, ...(companionIds ? { companionIds } : {}) }
      : null;
  const taken = own && own.verdict !== "unsteady" ? own : (theirs ?? own);
  if (!taken) return;
  const first = rows[0];
  const trace = first
    ? { at: first.t, lpm: rows.map((r) => r.lpm), read: steadyPart(taken.samples, rows.length) }
    : null;
  await insertLearningResult(run, taken, trace);
  await say(run.id, { type: "result", result: taken });
}

/** The window that was steady is the last of what was read. */
const steadyPart = (samples: number, rows: number): [number, number][] =>
  samples > 0 ? [[Math.max(0, rows - samples), rows - 1]] : [];
