import { closeDatabase } from "../db/connection.ts";
import { closeListening } from "../db/listen.ts";
import { thisProcessIsTheOperators } from "../db/reach.ts";
import { recordGateways } from "../field/recorder.ts";
import { endHeavy } from "../heavy/pool.ts";
import { log } from "../log.ts";
import { keepHouse } from "./house.ts";
import { tellAll } from "../tell/teller.ts";
import { learnInTurn } from "./learner.ts";
import { makeRoundsAhead } from "../services/rounds-ahead.ts";

thisProcessIsTheOperators();
/** While the database is away each part tries again by itself; what is thrown in between must not end the process. */
process.on("unhandledRejection", (error) => log.error({ err: error }, "nobody waited for this"));

/** A part that cannot begin yet, since the database is away, begins when it is back. */
async function begun<T>(name: string, begin: () => Promise<T>): Promise<T> {
  for (let wait = 500; ; wait = Math.min(wait * 2, 10_000)) {
    try {
      return await begin();
    } catch (error) {
      log.error({ err: error }, `${name} did not begin; tried again`);
      await new Promise((r) => setTimeout(r, wait));
    }
  }
}

/** A worker process: learning runs, its share of the field gateways, and what has to be done once a day by one of all workers. */
const stops = [
  await begun("learning", learnInTurn),
  await begun("recording", recordGateways),
  await begun("the daily work", keepHouse),
  await begun("rounds", makeRoundsAhead),
  await begun("telling", tellAll),
];
log.info("worker ready");

const stop = async (): Promise<void> => {
  await Promise.all(stops.map((end) => end().catch(() => {})));
  await endHeavy();
  await closeListening();
  await closeDatabase();
  process.exit(0);
};
process.on("SIGTERM", stop);
process.on("SIGINT", stop);
