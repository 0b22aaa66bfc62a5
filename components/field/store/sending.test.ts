import "fake-indexeddb/auto";
import { afterEach, beforeEach, describe, expect, it } from "vitest";
import { RequestRefused } from "@/components/data/request";
import type { Along } from "@/contracts/along";
import type { Entered, FieldEntry } from "@/contracts/entries";
import { PIECE_BYTES } from "@/contracts/kept-files";
import { dropEntry, enterInstead, entriesOf, keepEntry, markEntry } from "./entries";
import { openPhone, type Phone, waitingOf, wipePhone } from "./phone-db";
import { keepPack, type Office, sendWaiting, tidyPhone } from "./sending";

let phone: Phone;
beforeEach(async () => {
  phone = await openPhone("maren");
});
afterEach(async () => {
  phone.close();
  await wipePhone("maren");
});

const SITE = "site-1";
const pack = { siteId: SITE, at: "2026-07-15T12:00:00Z", version: 2 } as Along;
const walk = (walkId: string): Entered => ({ kind: "walkBegin", walkId, stationIds: ["s1"] });
const look = (walkId: string, photoIds: string[] = []): Entered => ({
  kind: "walkLook",
  walkId,
  stationId: "s1",
  state: "problem",
  problem: "leak",
  readLpm: null,
  note: "",
  photoIds,
  ownerId: null,
  due: null,
});
const acknowledge = (alarmId: string): Entered => ({ kind: "alarm", alarmId, act: { action: "acknowledge" } });
let count = 0;
const enter = (what: Entered, draft?: string, siteId = SITE): Promise<void> =>
  keepEntry(
    phone,
    { id: `entry-${++count}`, by: "maren", at: "2026-07-15T12:00:00Z", siteId, what, subject: "x" },
    draft,
  );
const kinds = async (): Promise<string[]> => (await entriesOf(phone)).map((e) => `${e.what.kind} ${e.state}`);

/** An office that notes what it was sent, and refuses as the test has it. */
function anOffice(refuse: (entry: FieldEntry) => Error | null = () => null) {
  const got: string[] = [];
  const files = new Map<string, number>();
  const office: Office = {
    enter: async (_, entry) => {
      const refused = refuse(entry);
      if (refused) throw refused;
      got.push(`${entry.what.kind} ${entry.id}`);
    },
    arrived: async (_, id) => ({ has: files.get(id) ?? 0, whole: false }),
    piece: async (_, id, { from, of }, piece) => {
      got.push(`piece ${from}`);
      files.set(id, from + piece.size);
      return { has: from + piece.size, whole: from + piece.size === of };
    },
    along: async (siteId) => ({ ...pack, siteId }),
  };
  return { office, got, files };
}
const away = (): Error => new RequestRefused("unreachable", "away", {});
const send = (office: Office) => sendWaiting(phone, office, () => {});

describe("what waits on a phone", () => {
  it("is sent once and in its order, and is gone once the site that shows it has been read anew", async () => {
    await enter(walk("w1"));
    await enter(look("w1"));
    await enter(acknowledge("a1"));
    expect(await waitingOf("maren")).toBe(3);
    const { office, got } = anOffice();
    expect(await send(office)).toBe("done");
    expect(got.map((g) => g.split(" ")[0])).toEqual(["walkBegin", "walkLook", "alarm"]);
    expect(await entriesOf(phone)).toEqual([]);
    expect((await phone.get("site", SITE))?.pack.version).toBe(2);
    expect(await send(office)).toBe("done");
    expect(got).toHaveLength(3);
  });
  it("is sent on from where the connection broke, under the same number", async () => {
    await enter(walk("w1"));
    await enter(look("w1"));
    let tries = 0;
    const first = anOffice((e) => (e.what.kind === "walkLook" && ++tries === 1 ? away() : null));
    expect(await send(first.office)).toBe("away");
    expect(await kinds()).toEqual(["walkBegin sent", "walkLook waiting"]);
    expect(await send(first.office)).toBe("done");
    expect(first.got.map((g) => g.split(" ")[0])).toEqual(["walkBegin", "walkLook"]);
  });
  it("stays with what it met, holds up what follows of the same thing and nothing else", async () => {
    await enter({ kind: "alarm", alarmId: "a1", act: { action: "clear", cause: "lateral split", repaired: false } });
    await enter({ kind: "alarm", alarmId: "a1", act: { action: "note", words: "wet" } });
    await enter(acknowledge("a2"));
    const met = { why: "cleared", by: "Tolly" } as const;
    const { office, got } = anOffice((e) =>
      e.what.kind === "alarm" && e.what.act.action === "clear"
        ? new RequestRefused("conflict", "cleared", { met })
        : null,
    );
    await send(office);
    expect(got).toHaveLength(1);
    const [clear, note] = await entriesOf(phone);
    expect([clear?.state, clear?.met, note?.state]).toEqual(["met", met, "waiting"]);
    if (!clear) throw new Error("It is gone.");
    await enterInstead(phone, clear, { kind: "alarm", alarmId: "a1", act: { action: "note", words: "lateral split" } });
    expect((await entriesOf(phone))[0]).toMatchObject({ seq: clear.seq, state: "waiting" });
    expect((await entriesOf(phone))[0]?.id).not.toBe(clear.id);
    await send(office);
    expect(await entriesOf(phone)).toEqual([]);
  });
  it("that is refused for good is kept with why, is sent again or taken back by whoever entered it", async () => {
    await enter(walk("w1"));
    let refuse = true;
    const { office, got } = anOffice(() => (refuse ? new RequestRefused("notAllowed", "archived", {}) : null));
    await send(office);
    const [entry] = await entriesOf(phone);
    expect([entry?.state, entry?.problem]).toEqual(["refused", "archived"]);
    refuse = false;
    await markEntry(phone, entry?.seq ?? 0, { state: "waiting" });
    await send(office);
    expect(got).toHaveLength(1);
    await enter(walk("w2"));
    const [second] = await entriesOf(phone);
    await dropEntry(phone, second?.seq ?? 0);
    expect(await entriesOf(phone)).toEqual([]);
  });
  it.each([
    [{}, "signIn"],
    [{ ended: true }, "ended"],
  ])("waits for somebody to sign in (%o)", async (details, stopped) => {
    await enter(walk("w1"));
    const { office } = anOffice(() => new RequestRefused("notSignedIn", "sign in", details));
    expect(await send(office)).toBe(stopped);
    expect(await kinds()).toEqual(["walkBegin waiting"]);
  });
  it("is sent too when it is entered while the sites are read anew", async () => {
    await enter(walk("w1"));
    const { office, got } = anOffice();
    let reads = 0;
    await send({
      ...office,
      along: async (siteId) => {
        if (++reads === 1) await enter(look("w1"));
        return office.along(siteId);
      },
    });
    expect(got.map((g) => g.split(" ")[0])).toEqual(["walkBegin", "walkLook"]);
    expect(await entriesOf(phone)).toEqual([]);
  });
  it("forgets with an entry what was typed for it, and nothing else", async () => {
    for (const key of ["walk w1 at", "walk w1 s1", "walk w1 s10", "walk w2 at"]) await phone.put("draft", "typed", key);
    await enter(look("w1"), "walk w1 s1");
    expect(await phone.getAllKeys("draft")).toEqual(["walk w1 at", "walk w1 s10", "walk w2 at"]);
    await enter({ kind: "walkEnd", walkId: "w1", note: "" }, "walk w1 *");
    expect(await phone.getAllKeys("draft")).toEqual(["walk w2 at"]);
  });
});

describe("photographs", () => {
  const photo = (id: string, bytes: number) => ({
    id,
    siteId: SITE,
    content: new ArrayBuffer(bytes),
    sent: 0,
  });
  it("go before what names them, in pieces, from where they broke off", async () => {
    await phone.put("photo", photo("p1", 2.5 * PIECE_BYTES));
    await enter(look("w1", ["p1"]));
    const { office, got, files } = anOffice();
    let pieces = 0;
    const breaking: Office = {
      ...office,
      piece: (...asked) => (++pieces === 2 ? Promise.reject(away()) : office.piece(...asked)),
    };
    expect(await send(breaking)).toBe("away");
    expect((await phone.get("photo", "p1"))?.sent).toBe(PIECE_BYTES);
    expect(await send(breaking)).toBe("done");
    expect(
      got.map((g) =>
        g
          .split(" ")
          .slice(0, g.startsWith("piece") ? 2 : 1)
          .join(" "),
      ),
    ).toEqual(["piece 0", `piece ${PIECE_BYTES}`, `piece ${2 * PIECE_BYTES}`, "walkLook"]);
    expect(files.get("p1")).toBe(2.5 * PIECE_BYTES);
    expect(await phone.getAll("photo")).toEqual([]);
  });
  it("that do not get on are told, and never asked for without end", async () => {
    await phone.put("photo", photo("p1", 10));
    await enter(look("w1", ["p1"]));
    const { office } = anOffice();
    await send({ ...office, piece: async () => ({ has: 0, whole: false }) });
    expect((await entriesOf(phone))[0]?.state).toBe("refused");
  });
  it("and sites that nothing names any more are forgotten; what is along, open or waited for stays", async () => {
    for (const id of ["named", "typed", "left"]) await phone.put("photo", photo(id, 10));
    await enter(look("w1", ["named"]));
    await phone.put("draft", { photoIds: ["typed"] }, "walk w1 s2");
    for (const [siteId, along] of [
      ["along", true],
      ["open", false],
      ["looked-at", false],
      [SITE, false],
    ] as const)
      await keepPack(phone, { ...pack, siteId }, along);
    await tidyPhone(phone, "open");
    expect(await phone.getAllKeys("photo")).toEqual(["named", "typed"]);
    expect((await phone.getAllKeys("site")).sort()).toEqual(["along", "open", SITE]);
  });
  it("an older answer never takes the place of a newer one", async () => {
    await keepPack(phone, { ...pack, version: 3, at: "2026-07-15T12:00:09Z" }, true);
    await keepPack(phone, { ...pack, version: 2, at: "2026-07-15T12:00:08Z" });
    expect(await phone.get("site", SITE)).toMatchObject({ along: true, pack: { version: 3 } });
  });
});
