import { learningRequest } from "../../contracts/learning.ts";
import { log } from "../log.ts";
import type { SignedIn } from "../auth/session.ts";
import { hashPassword } from "../auth/password.ts";
import { insertOrganisation, insertUser, organisationCount } from "../db/users.ts";
import { inTransaction } from "../db/connection.ts";
import { insertLearningRun } from "../db/learning.ts";
import { runLearning } from "../jobs/learning-run.ts";
import { beginDrill } from "../../core/drill/drill.ts";
import type { Check } from "../../core/drill/drill-bench.ts";
import { keepDrill } from "../services/drills.ts";
import { sortSite } from "../services/groups.ts";
import { takeBenchNight } from "../services/log-book.ts";
import { importSite, loadSite } from "../services/sites.ts";
import { demoNights, keepDemoNights } from "./nights.ts";
import { DEMO_PASSWORD, DEMO_USERS } from "./people.ts";
import { DEMO_GROUPS, demoSites } from "./sites.ts";
import { loadDemoMeters } from "./meters.ts";
import { loadDemoVisits } from "./visits.ts";

/** The demo organisation, its people and seven sites, with two nights in the log, proposals of a learning, nights that have something to tell, meters read beside their sensors, and visits with what they left to do; only into an empty database. */
export async function loadDemo(): Promise<boolean> {
  if ((await organisationCount()) > 0) return false;
  const passwordHash = await hashPassword(DEMO_PASSWORD);
  const nights = demoNights(demoSites(), new Date());
  const learned = await inTransaction(async () => {
    const organisations = new Map<string, string>();
    const ids = new Map<string, string>();
    for (const { organisation, ...user } of DEMO_USERS) {
      const organisationId = organisations.get(organisation) ?? (await insertOrganisation(organisation));
      organisations.set(organisation, organisationId);
      ids.set(user.email, await insertUser({ organisationId, passwordHash, ...user }));
    }
    const organisationId = organisations.get(DEMO_USERS[0].organisation) as string;
    const maren: SignedIn = {
      userId: ids.get(DEMO_USERS[0].email) as string,
      organisationId,
      ownSitesOnly: false,
      ...DEMO_USERS[0],
    };
    const tolly: SignedIn = {
      userId: ids.get(DEMO_USERS[1].email) as string,
      organisationId,
      ownSitesOnly: false,
      ...DEMO_USERS[1],
    };
    const loaded = new Map<string, string>();
    for (const file of demoSites()) loaded.set(file.site.id, (await importSite(maren, JSON.stringify(file))).id);
    for (const [fileId, groups] of Object.entries(DEMO_GROUPS))
      await sortSite(maren, loaded.get(fileId) as string, groups);
    await takeBenchNight(tolly, loaded.get("larkspur-clinic") as string, {
      date: "2026-11-20",
      faults: [{ at: "+900", kind: "brokenLateral", subjectId: "lc3" }],
      seed: 4,
      exact: false,
    });
    await takeBenchNight(tolly, loaded.get("quarrel-hill") as string, {
      date: "2026-11-21",
      faults: [{ at: "+4000", kind: "clogged", subjectId: "qh5", size: 0.6 }],
      seed: 7,
      exact: false,
    });
    await practise(tolly, loaded.get("hollin-bank") as string);
    await keepDemoNights(organisationId, loaded, nights);
    await loadDemoVisits({ maren, tolly }, loaded, new Date());
    await loadDemoMeters(tolly, loaded, new Date());
    const request = learningRequest.parse({
      stationIds: null,
      seed: 5,
      pace: 0,
      date: "2026-11-24",
      from: "09:00",
      faults: [
        { kind: "brokenOutlet", subjectId: "sc9", at: "+0" },
        { kind: "clogged", subjectId: "sc13", at: "+0", size: 0.3 },
        { kind: "wrongValve", subjectId: "sc16", otherId: "sc6", at: "+0" },
      ],
    });
    return insertLearningRun({
      organisationId,
      siteId: loaded.get("sallow-court") as string,
      version: 1,
      request,
      userId: tolly.userId,
    });
  });
  await runLearning(learned);
  log.info("demo data loaded");
  return true;
}

/** Three drills of a technician: two named right, one not. */
async function practise(user: SignedIn, siteId: string): Promise<void> {
  const { file, version } = await loadSite(user, siteId);
  const date = "2026-11-23";
  for (const [i, seed] of [20_411, 77_003, 515_151].entries()) {
    const drill = beginDrill(file, date, seed);
    if (!drill) continue;
    const { bench, hidden } = drill;
    const other = bench.stations.find((s) => s.id !== hidden.subjectId) as (typeof bench.stations)[number];
    const step = (open: string[], check: Check) => ({
      standing: { open, valves: bench.masterValves, pumps: open.length > 0 ? bench.pumps : [] },
      check,
    });
    await keepDrill(user, siteId, {
      version,
      date,
      seed,
      steps: [
        step([], { type: "read" }),
        step([other.id], { type: "read" }),
        ...(i === 1 ? [] : [step([other.id], { type: "look", subjectId: bench.mainlines[0] as string })]),
      ],
      named: i === 2 ? { kind: "clogged", subjectId: other.id } : hidden,
    });
  }
}
