import {
  type Answer,
  type DoneMessage,
  doneMessage,
  type HoldsMessage,
  holdsMessage,
  MOST_SETTINGS_BYTES,
  takenMessage,
} from "../../core/field/orders.ts";
import { readJson } from "../../core/field/messages.ts";
import { withLocks } from "../../core/site-file/locks.ts";
import { patched } from "../../core/site-file/patch.ts";
import type { SiteFile } from "../../core/site-file/schema.ts";
import { answerOrder } from "../db/controller-orders.ts";
import { answerSend, keepHolds, setAside } from "../db/controllers.ts";
import type { GatewayRow } from "../db/field.ts";
import { RECORDERS_REST_S } from "../db/leases.ts";
import { runOfOrder, updateLearningRun } from "../db/learning.ts";
import { tell } from "../db/listen.ts";
import { revisionAt } from "../db/revisions.ts";
import { siteById } from "../db/sites.ts";
import { insertValveCheck } from "../db/valve-checks.ts";
import { heavy } from "../heavy/pool.ts";
import { normalise } from "../app-error.ts";
import { log } from "../log.ts";
import { inTransaction } from "../db/connection.ts";
import { compared } from "../services/controllers.ts";
import { amendSite } from "../services/sites.ts";
import { asUser } from "./as-user.ts";

/** A message longer than this is no answer, and is not read. */
export const MOST_ANSWER_BYTES = MOST_SETTINGS_BYTES + 10_000;

/**
 * Takes in what a gateway answers: what became of settings, what a controller holds, what was done. What cannot be read is counted and said; so is what cannot be taken in
 * for another reason than that the database is away, since it would stand in the way of all that follows.
 */
export async function takeAnswer(gateway: GatewayRow, what: Answer, text: string): Promise<void> {
  const why = await take(gateway, what, text).catch((error: unknown) => {
    if (normalise(error).code === "databaseBusy") throw error;
    log.error({ err: error, site: gateway.siteId, what }, "an answer was not taken in");
    return "an answer could not be taken in";
  });
  if (why !== null) await setAside(gateway.siteId, why);
  await tell(`field_${gateway.siteId}`, { type: "controllers" });
}

async function take(gateway: GatewayRow, what: Answer, text: string): Promise<string | null> {
  switch (what) {
    case "taken": {
      const taken = readJson(takenMessage, text);
      if (!taken) return "what became of settings could not be read";
      await answerSend(gateway.siteId, taken);
      return null;
    }
    case "holds": {
      const holds = readJson(holdsMessage, text);
      return holds ? takeHolds(gateway, holds) : "what a controller holds could not be read";
    }
    case "done": {
      const done = readJson(doneMessage, text);
      if (!done) return "what became of an order could not be read";
      // What is set by an order is set here too, or the order is asked after again.
      await inTransaction(() => takeDone(gateway, done), RECORDERS_REST_S);
      return null;
    }
  }
}

/** What a controller holds, kept with what that differs from what stands now. */
async function takeHolds(gateway: GatewayRow, message: HoldsMessage): Promise<string | null> {
  const { organisationId, siteId } = gateway;
  const read = await heavy(organisationId, "readHolds", [message.controllerId, message.settings, message.checksum]);
  if (!read.ok) return read.words;
  const row = await siteById(organisationId, siteId);
  const revision = row && (await revisionAt(siteId, row.version));
  if (!row || !revision) return "its site is gone";
  await keepHolds({ organisationId, siteId }, message);
  await compared(organisationId, { id: siteId, version: row.version, file: revision.siteFile });
  return null;
}

async function takeDone(gateway: GatewayRow, done: DoneMessage): Promise<void> {
  const order = await answerOrder(gateway.siteId, {
    id: done.id,
    outcome: done.outcome,
    reason: done.reason ?? null,
    milliamps: done.milliamps ?? null,
  });
  if (!order) return;
  const { what } = order;
  if (what.kind === "learn" && done.outcome !== "done") {
    const run = await runOfOrder(gateway.siteId, done.id);
    if (run) await updateLearningRun(run.id, { state: "failed", endedAt: new Date() });
    if (run) await tell(`learning_${run.id}`, { type: "ended", state: "failed", seconds: 0, litres: 0, end: true });
  }
  if (done.outcome !== "done") return;
  const of = { organisationId: gateway.organisationId, siteId: gateway.siteId };
  const milliamps = Object.entries(order.milliamps ?? {});
  // A controller without stations has measured nothing.
  if (what.kind === "check" && milliamps.length > 0)
    await insertValveCheck(of, {
      id: order.id,
      controllerId: what.controllerId,
      at: new Date().toISOString(),
      how: "gateway",
      unit: "mA",
      readings: milliamps.map(([stationId, value]) => ({ stationId, value })),
      by: order.askedByName,
    });
  // What the controllers are set to by an order is so in the configuration too.
  if (what.kind === "off")
    await amend(gateway, `Off ${what.until === "indefinite" ? "with no end" : `until ${what.until}`}`, (file) => ({
      ...file,
      site: { ...file.site, holdUntil: what.until },
    }));
  if (what.kind === "resume")
    await amend(gateway, "Resumed", (file) => ({
      ...file,
      site: patched(file.site, { holdUntil: undefined }),
      controllers: file.controllers.map((c) => patched(c, { off: undefined })),
    }));
}

/** In the name of who set the gateway up; the controllers have done it. */
export async function amend(gateway: GatewayRow, note: string, change: (file: SiteFile) => SiteFile): Promise<void> {
  const as = await asUser(gateway.setBy);
  if (as) await amendSite(as, gateway.siteId, `${note}, as the controllers told`, change, true);
}

/** What someone freed at the controller itself is free here too. */
export async function freedThere(gateway: GatewayRow, ids: readonly string[]): Promise<void> {
  await amend(gateway, "Freed at the controller", (file) => withLocks(file, ids, false));
}
