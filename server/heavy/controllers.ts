import { orderProblem } from "../../core/at-controller/order-problem.ts";
import { learnFromReadings } from "../../core/learn/from-readings.ts";
import { refusals } from "../../core/learn/refusals.ts";
import { toLearn } from "../../core/learn/to-learn.ts";
import type { LearnResult } from "../../core/learn/events.ts";
import type { KeptProfile } from "../../core/profiles/profile.ts";
import { roundSite } from "../../core/profiles/round-site.ts";
import { checksum } from "../../core/settings/checksum.ts";
import { compareSettings, type Known, type SettingDifference } from "../../core/settings/compare.ts";
import { withItem } from "../../core/settings/item.ts";
import { type ControllerSettings, settingsOf } from "../../core/settings/settings-of.ts";
import { parseSite } from "../../core/site-file/parse-site.ts";
import type { SiteFile } from "../../core/site-file/schema.ts";

export type ToSend = { controllerId: string; settings: ControllerSettings; checksum: string };
type Side = { controllerId: string; holds: ControllerSettings; sent: ControllerSettings | null; known: Known };

const ours = (site: SiteFile, profiles: KeptProfile[], controllerId: string): ControllerSettings =>
  settingsOf(roundSite(site, profiles).site, controllerId);

/** What has to do with controllers at the other end, as tasks of their own threads. */
export const controllerTasks = {
  settingsToSend: (site: SiteFile, profiles: KeptProfile[], controllerIds: string[]): ToSend[] =>
    controllerIds.map((controllerId) => {
      const settings = ours(site, profiles, controllerId);
      return { controllerId, settings, checksum: checksum(settings) };
    }),

  /** What each of these controllers holds otherwise than this site. One that the site no longer has differs in nothing that could be sent. */
  compareControllers: (site: SiteFile, profiles: KeptProfile[], sides: Side[]): SettingDifference[][] =>
    sides.map(({ controllerId, holds, sent, known }) =>
      site.controllers.some((c) => c.id === controllerId)
        ? compareSettings(ours(site, profiles, controllerId), sent, holds, known)
        : [],
    ),

  /** What a controller says that it holds, if it came whole and is its own; else why not, in words. */
  readHolds(
    controllerId: string,
    value: unknown,
    sum: string,
  ): { ok: true; holds: ControllerSettings } | { ok: false; words: string } {
    if (checksum(value) !== sum) return { ok: false, words: "what a controller holds came with another checksum" };
    const parsed = parseSite(value);
    if (!parsed.ok)
      return { ok: false, words: `what a controller holds cannot be read: ${parsed.problems[0]?.message}` };
    if (parsed.site.controllers[0]?.id !== controllerId)
      return { ok: false, words: "what a controller holds is another controller's" };
    return { ok: true, holds: parsed.site };
  },

  /** The site with these items as the controller holds them; those whose place is gone are left out. */
  takeItems: (site: SiteFile, holds: ControllerSettings, paths: string[]): SiteFile =>
    paths.reduce((now, path) => withItem(now, holds, path) ?? now, site),

  orderProblem,
  toLearn,
  learnRefusals: refusals,

  /** A station's flow by the steady test, from what was read while it ran alone; null where nothing was. */
  learnedThere(
    site: SiteFile,
    stationId: string,
    rows: { t: number; lpm: number }[],
    opened: { from: number; to: number },
  ): LearnResult | null {
    if (rows.length === 0) return null;
    const series = {
      rows: rows.map((r) => ({ t: r.t, lpm: r.lpm, pulses: null })),
      segments: [{ stationIds: [stationId], from: opened.from, to: opened.to }],
      refused: [],
    };
    return learnFromReadings(site, series, null).results[0] ?? null;
  },
};
