import { expose } from "comlink";
import type { SiteFile } from "../core/site-file/schema.ts";
import { nightAnswer } from "../core/summary/night-answer.ts";

/** The browser compiles well only what has run a few times: unasked, the first night is played again this often, this far apart. */
const WARMING_RUNS = 8;
const WARMING_EVERY_MS = 200;
/** A night that takes longer is not played unasked. */
const WARM_BELOW_MS = 400;

let warmed = 0;

function warm(site: SiteFile, date: string): void {
  setTimeout(() => {
    const began = performance.now();
    nightAnswer(site, date);
    warmed++;
    if (warmed < WARMING_RUNS && performance.now() - began < WARM_BELOW_MS) warm(site, date);
  }, WARMING_EVERY_MS);
}

/** The night of the draft, worked out anew with every edit: this worker lives as long as the page. */
const nightDesk = {
  night(site: SiteFile, date: string): ReturnType<typeof nightAnswer> {
    const began = performance.now();
    const answer = nightAnswer(site, date);
    if (warmed === 0 && performance.now() - began < WARM_BELOW_MS) warm(site, date);
    warmed ||= 1;
    return answer;
  },
};
export type NightWorker = typeof nightDesk;

expose(nightDesk);
