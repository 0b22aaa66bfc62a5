import { afterAll, beforeAll, describe, expect, it } from "vitest";
import { refusal, twoPeople } from "../../testing/server-people.ts";
import { smallSite } from "../../testing/small-site.ts";
import { asUser, type InSession } from "../auth/session.ts";
import { closeDatabase } from "../db/connection.ts";
import { inOrganisation } from "../db/reach.ts";
import { setSitesSeenBy } from "../db/site-groups.ts";
import { insertUser } from "../db/users.ts";
import { sortSite } from "./groups.ts";
import { takeBenchNight } from "./log-book.ts";
import { search } from "./search.ts";
import { importSite } from "./sites.ts";
import { forgetView, savedViews, saveView } from "./views.ts";

let maren: InSession;
let stranger: InSession;
const site: Record<string, string> = {};
beforeAll(async () => {
  [maren, stranger] = await twoPeople();
  for (const name of ["Alder Walk", "Brine House"]) {
    const { id } = await importSite(
      maren,
      JSON.stringify(
        smallSite((s) => {
          s.site.id = name;
          s.site.name = name;
          Object.assign(s.stations[0] as object, { name: `Rose bed of ${name}`, serial: `QX-77${name.length}` });
        }),
      ),
    );
    site[name] = id;
  }
  await sortSite(maren, site["Alder Walk"] as string, { client: "Fenner Care" });
});
afterAll(closeDatabase);

const found = async (user: InSession, words: string): Promise<string[]> =>
  (await asUser(user, () => search(user, words))).found.map((f) => `${f.kind}: ${f.name}`);

describe("search", () => {
  it("finds sites by name and group, stations by name, number and serial, and people", async () => {
    expect(await found(maren, "fenner")).toEqual(["site: Alder Walk"]);
    expect(await found(maren, "rose alder")).toEqual(["piece: 1 Rose bed of Alder Walk"]);
    expect(await found(maren, "1 rose")).toHaveLength(2);
    expect(await found(maren, "qx-7711")).toEqual(["piece: 1 Rose bed of Brine House"]);
    expect(await found(maren, "maren")).toEqual(["person: maren"]);
    expect(await found({ ...maren, role: "viewer" }, "maren")).toEqual([]);
    expect(await found(maren, "   ")).toEqual([]);
    expect(await found(maren, "100% of_nothing")).toEqual([]);
  });
  it("finds alarms by what they say, and leads to each", async () => {
    await takeBenchNight(maren, site["Brine House"] as string, {
      date: "2026-07-14",
      faults: [{ at: "+60", kind: "brokenLateral", subjectId: "s1", size: 90 }],
      seed: 1,
      exact: true,
    });
    const [alarm] = (await asUser(maren, () => search(maren, "rose brine"))).found.filter((f) => f.kind === "alarm");
    expect(alarm?.at).toMatch(new RegExp(`^/sites/${site["Brine House"]}/log\\?view=alarms&at=`));
  });
  it("shows another organisation nothing, and who sees some sites only what is of those", async () => {
    expect(await found(stranger, "rose")).toEqual([]);
    const { organisationId } = maren;
    const userId = await insertUser({
      organisationId,
      email: `tolly-${organisationId}@test.example`,
      name: "Tolly",
      role: "technician",
      passwordHash: "none",
    });
    await setSitesSeenBy(organisationId, userId, [site["Alder Walk"] as string]);
    const some: InSession = { ...maren, userId, role: "technician", ownSitesOnly: true };
    expect(await found(some, "rose")).toEqual(["piece: 1 Rose bed of Alder Walk"]);
    expect((await found(maren, "rose")).length).toBeGreaterThan(2);
  });
});

describe("views that somebody keeps", () => {
  const within = <T>(user: InSession, work: () => Promise<T>) => inOrganisation(user.organisationId, work);
  it("are their own: a name that is there takes the new query, and nobody else has them", async () => {
    await within(maren, () => saveView(maren, { screen: "rounds", name: "Short", query: "only=short" }));
    const [view] = await within(maren, () =>
      saveView(maren, { screen: "rounds", name: "Short", query: "only=short&sort=name" }),
    );
    expect(view).toMatchObject({ name: "Short", query: "only=short&sort=name" });
    expect(await within(stranger, () => savedViews(stranger))).toEqual([]);
    const id = view?.id as string;
    expect((await refusal(within(stranger, () => forgetView(stranger, id)))).code).toBe("notFound");
    expect(await within(maren, () => forgetView(maren, id))).toEqual([]);
    expect((await refusal(within(maren, () => forgetView(maren, id)))).code).toBe("notFound");
  });
});
