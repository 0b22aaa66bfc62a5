import type { FieldStatus, GatewayKey } from "../../contracts/field.ts";
import { tell } from "../db/listen.ts";
import { resolveFaults } from "../../core/bench/faults/resolve.ts";
import type { TraceRow } from "../../core/bench/simulate.ts";
import { localDate } from "../../core/dates/wall-time.ts";
import { LiveJudge } from "../../core/field/live-judge.ts";
import { withTaughtSets } from "../../core/judge/taught-sets.ts";
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
import { newestMorning } from "../db/mornings.ts";
import { log } from "../log.ts";
import { closeAccount, newAccountName, openAccount } from "../field/accounts.ts";
import { publicBrokerUrl } from "../field/broker.ts";
import { audited } from "./audited.ts";
import { loadSite, siteOf } from "./sites.ts";

export const playRequest = playMessage;

const UNHEARD_MS = 20_000;

/** Events of the last three days are shown. */
const EVENTS_BACK_MS = 3 * 86_400_000;
const SHOWN_MIN = 30;
const SHOWN_EVERY_S = 5;

/** The site's gateway, how far its stream has been taken in, and the last half hour of it. */
export async function fieldStatus(user: SignedIn, siteId: string): Promise<FieldStatus> {
  const { file } = await loadSite(user, siteId);
  const broker = publicBrokerUrl();
  const gateway = await gatewayOf(siteId);
  if (!gateway) return { broker, gateway: null, stream: null, rows: [], open: [], events: [] };
  const stream = gateway.says ? await streamOf(siteId, gateway.says.stream) : null;
  const shown = {
    account: gateway.account,
    state: gatewayState(gateway),
    heardAt: gateway.heardAt?.toISOString() ?? null,
    says: gateway.says,
  };
  if (!stream?.lastAt) return { broker, gateway: shown, stream: null, rows: [], open: [], events: [] };
  const [instants, events] = await Promise.all([
    recentInstants(siteId, stream.stream, new Date(stream.lastAt.getTime() - SHOWN_MIN * 60_000), SHOWN_EVERY_S),
    recentEvents(siteId, stream.stream, new Date(stream.lastAt.getTime() - EVENTS_BACK_MS), 60),
  ]);
  const judge = new LiveJudge(withTaughtSets(file, (await newestMorning(siteId))?.reckoning.sets ?? []));
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
    broker,
    gateway: shown,
    stream: {
      readings: stream.readings,
      events: stream.events,
      repeats: stream.repeats,
      lost: stream.lost,
      refused: stream.refused,
      lastAt: stream.lastAt.toISOString(),
    },
    rows,
    open: instants.at(-1)?.open ?? [],
    events: events.map((e) => ({ ...e, at: e.at.toISOString() })),
  };
}

/** How a gateway stands now. A recorder says every few seconds that it hears it; where none does any more, nobody knows. */
export function gatewayState({ state, heardAt }: Pick<GatewayRow, "state" | "heardAt">): GatewayRow["state"] {
  return state === "live" && Date.now() - (heardAt?.getTime() ?? 0) > UNHEARD_MS ? "silent" : state;
}

/** How the gateway of a site stands, for whoever begins to watch it. */
export async function fieldState(user: SignedIn, siteId: string): Promise<GatewayRow["state"]> {
  await siteOf(user, siteId);
  const gateway = await gatewayOf(siteId);
  return gateway ? gatewayState(gateway) : "waiting";
}

/**
 * Gives the site's gateway an account at the broker, in place of the one it had: a device that still uses the old one is cut off. What was read before stays.
 *
 * @returns what the gateway signs in with; its password is told this once and kept nowhere in Presa
 */
export async function setField(user: SignedIn, siteId: string): Promise<GatewayKey> {
  const { file } = await loadSite(user, siteId);
  const broker = publicBrokerUrl();
  const key = await openAccount(newAccountName());
  const before = await setGateway({
    siteId,
    organisationId: user.organisationId,
    account: key.account,
    userId: user.userId,
  });
  await audited(user, "gatewayOpened", file.site.name);
  await cutOff(before);
  return { broker: broker as string, ...key };
}

/** The site is read from no gateway any more. */
export async function endField(user: SignedIn, siteId: string): Promise<void> {
  const { file } = await loadSite(user, siteId);
  await cutOff(await removeGateway(siteId));
  await audited(user, "gatewayClosed", file.site.name);
}

/** An account that could not be closed now speaks to nobody: no recorder listens to it. */
async function cutOff(account: string | null): Promise<void> {
  if (account === null) return;
  await closeAccount(account).catch((error) => log.error({ err: error, account }, "a gateway's account stays open"));
}

/** Tells a gateway that plays a site from when, how fast and with which faults. A real one has no such thing and is refused. */
export async function playField(user: SignedIn, siteId: string, asked: PlayMessage): Promise<void> {
  const { file } = await loadSite(user, siteId);
  const gateway = await gatewayOf(siteId);
  if (!gateway) throw new AppError("conflict", "This site has no gateway yet. Set one up first.");
  if (!gateway.says?.simulated)
    throw new AppError("conflict", "Only a gateway that plays a simulated site takes this.");
  const faults = resolveFaults(file, asked.faults ?? [], localDate(file.site.timeZone, 0), 0);
  if (!faults.ok) throw new AppError("badRequest", faults.problem.message);
  // More than a notification holds.
  if (JSON.stringify(asked).length > 7000)
    throw new AppError("tooLarge", "So many faults at once cannot be sent. Take some out.");
  await tell("field_play", { siteId, play: asked });
}
