import { expose } from "comlink";
import { nightAnswer } from "../core/summary/night-answer.ts";

/** The night of the draft, worked out anew with every edit: this worker lives as long as the page. */
const nightDesk = { night: nightAnswer };
export type NightWorker = typeof nightDesk;

expose(nightDesk);
