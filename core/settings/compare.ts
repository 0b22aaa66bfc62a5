import { toldDifference, type ToldChange } from "../site-file/difference.ts";
import type { ControllerSettings } from "./settings-of.ts";

/**
 * Who moved since the last send: someone at the controller, someone in Presa, both; or the controller did not take it as it was sent. Nobody knows where nothing was ever
 * sent.
 */
export type Moved = "controller" | "presa" | "both" | "refused" | "unknown";
/** One item that Presa and a controller hold differently. `sent`: as it was last sent; null where nothing was. */
export type SettingDifference = {
  path: string;
  what: string;
  presa: string;
  sent: string | null;
  controller: string;
  moved: Moved;
};

/** What is known of the other end besides: what it did not take as it was last sent, by item with what it held instead; and that somebody set it there. */
export type Known = { fell?: Readonly<Record<string, string>>; byHand?: boolean };

/**
 * What differs between what Presa would send, what was last sent and what the controller holds, item by item in words (handbook#11-controllers).
 *
 * @param ours as {@link settingsOf} gives them now
 */
export function compareSettings(
  ours: ControllerSettings,
  sent: ControllerSettings | null,
  holds: ControllerSettings,
  { fell = {}, byHand = false }: Known = {},
): SettingDifference[] {
  const sinceSent = sent && byPath(settingsDifference(sent, holds));
  const sinceThen = sent && byPath(settingsDifference(sent, ours));
  return settingsDifference(ours, holds).map((d): SettingDifference => {
    const there = sinceSent?.get(d.path);
    const here = sinceThen?.get(d.path);
    return {
      path: d.path,
      what: d.what,
      presa: d.was,
      sent: sent === null ? null : (there?.was ?? here?.was ?? d.now),
      controller: d.now,
      moved: moved(d),
    };
  });

  function moved({ path, now }: ToldChange): Moved {
    if (sent === null) return byHand ? "controller" : "unknown";
    const here = sinceThen?.has(path) === true;
    if (fell[path] === now) return here ? "presa" : "refused";
    if (sinceSent?.has(path) && here) return "both";
    return here ? "presa" : "controller";
  }
}

const byPath = (changes: ToldChange[]): Map<string, ToldChange> => new Map(changes.map((c) => [c.path, c]));

/** Differences between two sets of settings of one controller. A station's flow is its expected one here, whatever it rests on. */
export function settingsDifference(before: ControllerSettings, after: ControllerSettings): ToldChange[] {
  return toldDifference(before, after).map((c) =>
    /\.enteredFlowLpm$/.test(c.path)
      ? {
          ...c,
          words: c.words.replace(": entered flow ", ": expected flow "),
          what: c.what.replace(/entered flow$/, "expected flow"),
        }
      : c,
  );
}
