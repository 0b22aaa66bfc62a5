import { WAITS_MIN } from "../../core/tell/letters.ts";
import { unseal } from "../auth/seal.ts";
import { type CallToMake, callOutcome, takeCalls } from "../db/webhooks.ts";
import { log } from "../log.ts";
import { callOutside, signature } from "./outside.ts";

const AT_ONCE = 10;

/**
 * Makes the calls to other systems whose time has come, some beside each other, one of a webhook at a time. One that does not take its call is not called again this time,
 * however many wait for it: it keeps nobody else's waiting.
 *
 * @returns how many were taken there
 */
export async function makeCalls(now: Date): Promise<number> {
  let done = 0;
  const silent: string[] = [];
  for (;;) {
    const calls = await takeCalls(AT_ONCE, silent);
    if (calls.length === 0) return done;
    await Promise.all(
      calls.map(async (call) => {
        if (await makeOne(call, now)) done++;
        else silent.push(call.webhookId);
      }),
    );
  }
}

async function makeOne(call: CallToMake, now: Date): Promise<boolean> {
  let status: number | null = null;
  let problem: string | null = null;
  try {
    const secret = unseal(call.sealedSecret);
    if (secret === null)
      throw new Error("Its secret was sealed by another Presa. Take the webhook out and make it anew.");
    const body = JSON.stringify({ id: call.id, ...(call.body as object) });
    const seconds = Math.floor(now.getTime() / 1000);
    status = await callOutside(call.url, body, { "x-presa-signature": signature(secret, seconds, body) });
    if (status < 200 || status > 299) problem = `It answered ${status}.`;
  } catch (error) {
    problem = error instanceof Error ? error.message : String(error);
  }
  const wait = WAITS_MIN[call.tries - 1];
  const again = problem === null || wait === undefined ? null : new Date(now.getTime() + wait * 60_000);
  await callOutcome(call.id, { status, problem, again });
  if (problem !== null)
    log.warn({ call: call.id, organisation: call.organisationId, problem }, "another system was not told");
  return problem === null;
}
