import { DEMO_PASSWORD, DEMO_USERS } from "../../server/demo/people.ts";
import { demoSites } from "../../server/demo/sites.ts";
import { loopback, percentile, Person } from "./client.ts";

/* Who attacks, who is attacked, and how it is seen that the one does not feel the other. */

export type Held = { held: boolean; seen: string };

/** Each kind less often, and no word on how fast this machine is. */
export const few = process.argv.includes("--small");
export const base = loopback(process.env["PRESA_URL"] ?? "http://127.0.0.1:4310");
const [MANAGER, , , STRANGER] = DEMO_USERS;
export const victim = await Person.signedIn(base, MANAGER.email, DEMO_PASSWORD);
export const attacker = await Person.signedIn(base, STRANGER.email, DEMO_PASSWORD);
export const clinic = demoSites()[0] as typeof demoSites extends () => (infer S)[] ? S : never;
const [first] = await victim.sites();
if (!first) throw new Error("The demo is not in this Presa.");
/** A site of the other organisation. */
export const victims = first;

/** A request of another organisation answers in so long at the most while something is done to Presa, ms. */
export const OTHERS_MS = few ? 15_000 : 1500;

/** How long another organisation's requests take while something is done. */
export async function besides(
  work: () => Promise<unknown>,
): Promise<{ answer: unknown; p95: number; worst: number; bad: number }> {
  let going = true;
  const times: number[] = [];
  let bad = 0;
  const asking = (async () => {
    while (going) {
      const { ms, status } = await victim.ask("GET", "/api/sites");
      times.push(ms);
      if (status !== 200) bad++;
      await new Promise((r) => setTimeout(r, 20));
    }
  })();
  const answer = await work().catch((error: Error) => error.message);
  going = false;
  await asking;
  return { answer, p95: percentile(times, 95), worst: Math.max(...times), bad };
}
export const othersGoOn = async (work: () => Promise<string>): Promise<Held> => {
  const { answer, p95, worst, bad } = await besides(work);
  return {
    held: worst < OTHERS_MS && bad === 0 && !/^5/.test(String(answer).replace(/^503/, "busy")),
    seen: `${answer}; others meanwhile p95 ${p95.toFixed(0)} ms, worst ${worst.toFixed(0)} ms`,
  };
};
export const expectEach = async (
  asked: [string, () => Promise<number>, (status: number) => boolean][],
): Promise<Held> => {
  const wrong: string[] = [];
  for (const [name, ask, right] of asked) {
    const status = await ask();
    if (!right(status)) wrong.push(`${name} answered ${status}`);
  }
  return { held: wrong.length === 0, seen: wrong.join("; ") || `${asked.length} asked, all refused` };
};
