import type { Messages } from "@/messages/messages";

declare module "next-intl" {
  interface AppConfig {
    Messages: Messages;
  }
}

/** A word of the messages by what the data calls it; what is not known there is `other`. */
export const known = <T extends string>(words: Record<T, unknown>, key: string, other: T): T =>
  Object.hasOwn(words, key) ? (key as T) : other;
