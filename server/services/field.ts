import type { FieldStatus } from "../../contracts/field.ts";
import { tell } from "../db/listen.ts";
import { z } from "zod";
import { resolveFaults } from "../../core/bench/faults/resolve.ts";
import type { TraceRow } from "../../core/bench/simulate.ts";
import { localDate } from "../../core/dates/wall-time.ts";
import { LiveJudge } from "../../core/field/live-judge.ts";
import { playMessage, type PlayMessage } from "../../core/field/messages.ts";
import { AppError } from "../app-error.ts";
import type { SignedIn } from "../auth/session.ts";

import {
  gatewayOf,
  type GatewayRow,
  recentEvents,
  recentInstants,
  removeGateway,
  setGateway,
  streamOf,
} from "../db/field.ts";
import { loadSite } from "./sites.ts";

const url = z
  .string()
  .trim()
  .max(200)
  .refine(isLoopback, "has to be mqtt:// on this machine, such as mqtt://127.0.0.1:18830");
const topic = z
  .string()
  .trim()
  .regex(/^[\w.-]{1,100}$/, "takes letters, digits, dot, dash and underscore");
export const gatewayRequest = z.strictObject({ url, topic });
export const playRequest = playMessage;

const UNHEARD_MS = 20_000;

/** A gateway is listened to on this machine only: what is farther away is bridged to it by whoever runs its broker. */
function isLoopback(text: string): boolean {
  if (!URL.canParse(text)) return false;
  const at = new URL(text);
  return (
    at.protocol === "mqtt:" &&
    ["127.0.0.1", "localhost", "[::1]"].includes(at.hostname) &&
    at.username === "" &&
    (at.pathname === "" || at.pathname === "/")
  );
}

const SHOWN_MIN = 30;
const SHOWN_EVERY_S = 5;

/** The site's gateway, how far its stream has been taken in, and the last half hour of it. */
export async function fieldStatus(user: SignedIn, siteId: string): Promise<FieldStatus> {
  const { file } = await loadSite(user, siteId);
  const gateway = await gatewayOf(siteId);
  if (!gateway) return { gateway: null, stream: null, rows: [], open: [], events: [] };
  const stream = gateway.says ? await streamOf(siteId, gateway.says.stream) : null;
  const shown = {
    url: gateway.url,
    topic: gateway.topic,
    state: stateNow(gateway.state, gateway.heardAt),
    heardAt: gateway.heardAt?.toISOString() ?? null,
    says: gateway.says,
  };
  if (!stream?.lastAt) return { gateway: shown, stream: null, rows: [], open: [], events: [] };
  const [instants, events] = await Promise.all([
    recentInstants(siteId, stream.stream, new Date(stream.lastAt.getTime() - SHOWN_MIN * 60_000), SHOWN_EVERY_S),
    recentEvents(siteId, stream.stream, 60),
  ]);
  const judge = new LiveJudge(file);
  const rows = instants.map((i): TraceRow => {
    const at = i.at.getTime() / 1000;
    const band = judge.band(i.open, at);
    return {
      at,
      readingLpm: i.flow ?? 0,
      expectedLpm: band?.expectedLpm ?? 0,
      highLpm: band?.highLpm ?? null,
      lowLpm: band?.lowLpm ?? null,
    };
  });
  return {
    gateway: shown,
    stream: {
      readings: stream.readings,
      events: stream.events,
      repeats: stream.repeats,
      lost: stream.lost,
      lastAt: stream.lastAt.toISOString(),
    },
    rows,
    open: instants.at(-1)?.open ?? [],
    events: events.map((e) => ({ ...e, at: e.at.toISOString() })),
  };
}

/** A recorder says every few seconds that it hears the gateway; where none does any more, nobody knows. */
function stateNow(state: GatewayRow["state"], heardAt: Date | null): GatewayRow["state"] {
  return state === "live" && Date.now() - (heardAt?.getTime() ?? 0) > UNHEARD_MS ? "silent" : state;
}

/** How the gateway of a site stands, for whoever begins to watch it. */
export async function fieldState(user: SignedIn, siteId: string): Promise<GatewayRow["state"]> {
  await loadSite(user, siteId);
  const gateway = await gatewayOf(siteId);
  return gateway ? stateNow(gateway.state, gateway.heardAt) : "waiting";
}

/** Sets which gateway the site is read from, or that it is read from none. What was read before stays. */
export async function setField(
  user: SignedIn,
  siteId: string,
  asked: z.infer<typeof gatewayRequest> | null,
): Promise<void> {
  await loadSite(user, siteId);
  if (asked === null) await removeGateway(siteId);
  else
    await setGateway({
      siteId,
      organisationId: user.organisationId,
      url: asked.url,
      topic: asked.topic,
      userId: user.userId,
    });
}

/** Tells a gateway that plays a site from when, how fast and with which faults. A real one has no such thing and is refused. */
export async function playField(user: SignedIn, siteId: string, asked: PlayMessage): Promise<void> {
  const { file } = await loadSite(user, siteId);
  const gateway = await gatewayOf(siteId);
  if (!gateway) throw new AppError("conflict", "This site has no gateway yet. Set its address first.");
  if (!gateway.says?.simulated)
    throw new AppError("conflict", "Only a gateway that plays a simulated site takes this.");
  const faults = resolveFaults(file, asked.faults ?? [], localDate(file.site.timeZone, 0), 0);
  if (!faults.ok) throw new AppError("badRequest", faults.problem.message);
  // More than a notification holds.
  if (JSON.stringify(asked).length > 7000)
    throw new AppError("tooLarge", "So many faults at once cannot be sent. Take some out.");
  await tell("field_play", { siteId, play: asked });
}
