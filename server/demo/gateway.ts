import { existsSync, mkdirSync, readFileSync, writeFileSync } from "node:fs";
import { join } from "node:path";
import { checksum } from "../../core/settings/checksum.ts";
import { writeSiteText } from "../../core/site-file/parse-site.ts";
import type { SignedIn } from "../auth/session.ts";
import { insertSend, sendsOf } from "../db/controllers.ts";
import { inTransaction } from "../db/connection.ts";
import { gatewayOf } from "../db/field.ts";
import { lockSite, siteByFileId } from "../db/sites.ts";
import { userByEmail } from "../db/users.ts";
import { heavy } from "../heavy/pool.ts";
import { profilesFor } from "../services/controllers.ts";
import { setField } from "../services/field.ts";
import { type LoadedSite, loadSite } from "../services/sites.ts";
import { DEMO_USERS } from "./people.ts";
import { demoSites } from "./sites.ts";

/**
 * What is otherwise at the controllers than Presa says when the demo begins: someone has moved a start and a run time at one, one has a clock 40 minutes ahead, and one
 * cannot water every other day.
 */
const OTHERWISE: Readonly<Record<string, object[]>> = {
  "quarrel-hill": [
    { what: "starts", controllerId: "qh-a", programId: "qh-old", starts: ["20:15"] },
    { what: "minutes", controllerId: "qh-a", programId: "qh-old", stationId: "qh5", minutes: 25 },
  ],
  "lakeside-park": [{ what: "clock", controllerId: "lp-c2", minutes: 40 }],
  "larkspur-clinic": [
    {
      what: "profile",
      controllerId: "lc-ctl",
      profile: {
        id: "as-it-is",
        name: "As it is",
        note: "the controller that hangs there: no intervals of days",
        programs: 8,
        startsPerProgram: 8,
        stations: 48,
        atOnce: 6,
        minuteStep: 1,
        percentStep: 5,
        percentMax: 250,
        delayStepS: 1,
        delayMaxS: 3600,
        cycleAndSoak: true,
        windows: true,
        oddEven: true,
        interval: false,
        halfMonth: false,
        flowLimits: true,
      },
    },
    {
      what: "days",
      controllerId: "lc-ctl",
      programId: "lc-beds",
      days: { type: "weekdays", days: ["tue", "fri"] },
    },
  ],
};
/** Settings on their way to this one, of which it will refuse one. */
const SENT = "larkspur-clinic";

/**
 * What the simulated gateway needs to play the demo sites: for each `site.json`, for the broker `key.json`, and for some `begin.json`. A key that still holds is kept.
 */
export async function writeDemoGateways(folder: string): Promise<void> {
  const user = await userByEmail(DEMO_USERS[0].email);
  if (!user) return;
  const maren: SignedIn = { userId: user.id, ...user };
  for (const { site } of demoSites()) {
    const row = await siteByFileId(user.organisationId, site.id);
    if (!row) continue;
    const own = join(folder, site.id);
    mkdirSync(own, { recursive: true });
    const loaded = await loadSite(maren, row.id);
    writeFileSync(join(own, "site.json"), writeSiteText(loaded.file));
    const otherwise = OTHERWISE[site.id];
    if (otherwise) writeFileSync(join(own, "begin.json"), `${JSON.stringify(otherwise, null, 2)}\n`);
    const keyFile = join(own, "key.json");
    const known = (await gatewayOf(row.id))?.account;
    if (known !== undefined && existsSync(keyFile) && readFileSync(keyFile, "utf8").includes(known)) continue;
    writeFileSync(keyFile, `${JSON.stringify(await setField(maren, row.id), null, 2)}\n`, { mode: 0o600 });
    if (site.id === SENT && (await sendsOf(row.id, 1)).length === 0) await sendFirst(maren, loaded);
  }
}

async function sendFirst(user: SignedIn, site: LoadedSite): Promise<void> {
  const [first] = await heavy(user.organisationId, "settingsToSend", [
    site.file,
    await profilesFor(user.organisationId),
    site.file.controllers.slice(0, 1).map((c) => c.id),
  ]);
  if (!first) return;
  await inTransaction(async () => {
    await lockSite(user.organisationId, site.id);
    await insertSend({
      organisationId: user.organisationId,
      siteId: site.id,
      version: site.version,
      controllerId: first.controllerId,
      settings: first.settings,
      checksum: checksum(first.settings),
      userId: user.userId,
    });
  });
}
