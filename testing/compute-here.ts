import { computing } from "../workers/computing.ts";

type Job<T> = { promise: Promise<T>; cancel: () => void };

export class Cancelled extends Error {}

/** A job of the page, done where it is asked for: the real computation without a worker around it. */
function here<A extends unknown[], T>(work: (...args: A) => T | Promise<T>): (...args: A) => Job<T> {
  return (...args) => {
    let end: (why: Error) => void = () => {};
    const ended = new Promise<never>((_, no) => {
      end = no;
    });
    const done = new Promise<T>((yes, no) => {
      setTimeout(() => {
        try {
          yes(work(...args));
        } catch (error) {
          no(error);
        }
      });
    });
    return { promise: Promise.race([done, ended]), cancel: () => end(new Cancelled("cancelled")) };
  };
}

export const computeNight = here(computing.night);
export const computeBench = here(computing.bench);
export const computePressures = here(computing.pressures);
export const computeBetter = here(computing.better);
export const computeWatchable = here(computing.watchable);
export const computeOutlook = here(computing.outlook);
export const computeNightsFind = here(computing.nightsFind);
export const computeRehearsal = here(computing.rehearsal);
export const computeJudgement = here(computing.judgement);
export const computeLimits = here(computing.limits);
export const computeWhatElse = here(computing.whatElse);
export const computeDrillAdvice = here(computing.drillAdvice);
export const computeSweep = here(computing.sweep);
