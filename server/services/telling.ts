import { randomBytes, randomUUID } from "node:crypto";
import type { TellingChoice, TellingView, ToldView, WebhookAction } from "../../contracts/telling.ts";
import { trialLetter } from "../../core/tell/letters.ts";
import { AppError } from "../app-error.ts";
import { seal } from "../auth/seal.ts";
import type { InSession, SignedIn } from "../auth/session.ts";
import { inTransaction } from "../db/connection.ts";
import { choiceOf, insertLetter, keepChoice, lettersTo, stuckLetters, trialsSince } from "../db/telling.ts";
import { tell } from "../db/listen.ts";
import { callAgain, dropWebhook, insertTrialCall, insertWebhook, turnWebhook, webhooksOf } from "../db/webhooks.ts";
import { isInside, mayReachInside } from "../tell/outside.ts";
import { mailIsSet } from "../tell/post.ts";
import { audited } from "./audited.ts";

const SHOWN = 20;
const HOUR_MS = 3_600_000;
/** So many letters to try an hour, at the most. */
const MOST_TRIALS = 5;
/** More other systems than an office has. */
const MOST_WEBHOOKS = 10;

/** What somebody wants to be told, and what they were told lately. */
export async function tellingView(user: InSession): Promise<TellingView> {
  const [choice, letters] = await Promise.all([choiceOf(user), lettersTo(user, SHOWN)]);
  return { mail: mailIsSet(), choice, letters };
}

export async function chooseTelling(user: InSession, choice: TellingChoice): Promise<TellingView> {
  await keepChoice(user, choice);
  return tellingView(user);
}

/** A letter that says nothing but that it arrives. */
export async function tryLetter(user: InSession): Promise<TellingView> {
  if (!mailIsSet())
    throw new AppError("conflict", "No mail server is set up. Whoever runs this Presa sets PRESA_SMTP_URL.");
  if ((await trialsSince(user, new Date(Date.now() - HOUR_MS))) >= MOST_TRIALS)
    throw new AppError("tooManyTries", "Enough letters to try were sent in the last hour. Look whether they arrive.");
  await insertLetter(user, "trial", `trial:${randomUUID()}`, trialLetter(user.name));
  await tell("alarm_news", {});
  return tellingView(user);
}

/** What was not sent to anybody, and the other systems that are told. */
export async function toldView(user: SignedIn): Promise<ToldView> {
  const [stuck, webhooks] = await Promise.all([
    stuckLetters(user.organisationId, SHOWN),
    webhooksOf(user.organisationId),
  ]);
  return { mail: mailIsSet(), stuck, webhooks };
}

/** Another system is told of alarms from now on. Its secret is told once, here. */
export async function addWebhook(user: SignedIn, url: string): Promise<ToldView> {
  const { hostname } = new URL(url);
  if (!mayReachInside() && isLiterallyInside(hostname))
    throw new AppError("badRequest", "That address is in the network of this Presa, where no webhook may go.");
  if ((await webhooksOf(user.organisationId)).length >= MOST_WEBHOOKS)
    throw new AppError("conflict", `${MOST_WEBHOOKS} other systems are told already. Take one out first.`);
  const secret = randomBytes(32).toString("base64url");
  await inTransaction(async () => {
    await insertWebhook({
      organisationId: user.organisationId,
      url,
      sealedSecret: seal(secret),
      userId: user.userId,
    });
    await audited(user, "webhookMade", url);
  });
  return { ...(await toldView(user)), secret };
}

/** A name is looked at when it is called; what is an address, or this machine by name, is refused at once. */
function isLiterallyInside(hostname: string): boolean {
  const bare = hostname.replace(/^\[|\]$/g, "");
  return bare === "localhost" || (/^[\d.]+$|:/.test(bare) && isInside(bare));
}

export async function removeWebhook(user: SignedIn, id: string): Promise<ToldView> {
  await inTransaction(async () => {
    const url = await dropWebhook(user.organisationId, id);
    if (url === null) throw noSuchWebhook();
    await audited(user, "webhookTakenOut", url);
  });
  return toldView(user);
}

const noSuchWebhook = (): AppError => new AppError("notFound", "There is no such webhook in your organisation.");

/** Turned on or off, called to try, or what was given up called again. */
export async function actOnWebhook(user: SignedIn, id: string, action: WebhookAction): Promise<ToldView> {
  const { organisationId } = user;
  const done = {
    on: () => turnWebhook(organisationId, id, true),
    off: () => turnWebhook(organisationId, id, false),
    trial: () => insertTrialCall(organisationId, id),
    again: async () => (await turnWebhook(organisationId, id, true)) && (await callAgain(organisationId, id)) >= 0,
  };
  if (!(await done[action]())) throw noSuchWebhook();
  if (action !== "off") await tell("alarm_news", {});
  return toldView(user);
}
