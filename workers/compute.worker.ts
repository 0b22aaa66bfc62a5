import { expose } from "comlink";
import { computing } from "./computing.ts";

/** Heavy work off the page's thread, one worker a job. */
export type Computing = typeof computing;
export type { BetterAnswer, JudgementAnswer, NightsFind, PressureAnswer, WhatElse } from "./computing.ts";

expose(computing);
