import { z } from "zod";
import { type DataMessage, dataMessage, readJson } from "./messages.ts";

/** A number of the stream whose message was not taken: it could not be read, or its clock is wrong. It counts as come, so that what follows goes on. */
export type RefusedMessage = { stream: string; seq: number; kind: "refused"; why: "unreadable" | "clock" };
/** How far a gateway's clock may stand from ours. */
export type SaneTimes = { backS: number; aheadS: number };
export const SANE_TIMES: SaneTimes = { backS: 400 * 86_400, aheadS: 600 };

const numbered = z.object({ stream: z.string().min(1).max(64), seq: z.int().min(1).max(3e11) });

/**
 * What a gateway said, or that it was refused; null where it bears no number to refuse it by.
 *
 * @param nowS seconds since the epoch
 */
export function readData(
  text: string,
  nowS: number,
  sane: SaneTimes = SANE_TIMES,
): DataMessage | RefusedMessage | null {
  const message = readJson(dataMessage, text);
  if (!message) {
    const known = readJson(numbered, text);
    return known && { ...known, kind: "refused", why: "unreadable" };
  }
  if (message.kind === "lost") return message;
  const at = Date.parse(message.at) / 1000;
  // What is no instant at all compares to nothing.
  if (at >= nowS - sane.backS && at <= nowS + sane.aheadS) return message;
  return { stream: message.stream, seq: message.seq, kind: "refused", why: "clock" };
}
