import type { Language } from "../contracts/people.ts";
import en from "./en.json" with { type: "json" };
import es from "./es.json" with { type: "json" };

/** What the phone and its papers say. A further language is one file beside these, named here. */
export type Messages = typeof en;
export const MESSAGES: Record<Language, Messages> = { en, es };
