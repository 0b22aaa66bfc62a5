import { createTranslator } from "use-intl/core";
import type { Language } from "../contracts/people.ts";
import { MESSAGES, type Messages } from "../messages/messages.ts";

/** Says the words of a part of the messages. */
export type Words<P extends keyof Messages> = (
  key: Extract<keyof Messages[P], string>,
  values?: Record<string, string | number>,
) => string;

export function wordsIn<P extends keyof Messages>(language: Language, part: P): Words<P> {
  return createTranslator({ locale: language, messages: MESSAGES[language], namespace: part as never }) as never;
}
