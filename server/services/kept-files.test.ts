import { randomUUID } from "node:crypto";
import { afterAll, beforeAll, describe, expect, it } from "vitest";
import { refusal, twoPeople } from "../../testing/server-people.ts";
import { smallSite } from "../../testing/small-site.ts";
import type { InSession } from "../auth/session.ts";
import { closeDatabase, db } from "../db/connection.ts";
import { closeListening } from "../db/listen.ts";
import { endHeavy } from "../heavy/pool.ts";
import { tidy } from "../jobs/house.ts";
import { keepFile, keptFile, mustBeKept, typeByContent } from "./kept-files.ts";
import { archive } from "./site-end.ts";
import { importSite, loadSite, saveSite } from "./sites.ts";

let maren: InSession;
let stranger: InSession;
let siteId: string;
beforeAll(async () => {
  [maren, stranger] = await twoPeople();
  siteId = (await importSite(maren, JSON.stringify(smallSite()))).id;
});
afterAll(async () => {
  await endHeavy();
  await closeListening();
  await closeDatabase();
});

const PNG = Buffer.concat([Buffer.from("\x89PNG\r\n\x1a\n", "latin1"), Buffer.alloc(40, 7)]);
const keep = (content: Buffer, fileId: string = randomUUID(), user = maren) =>
  keepFile(user, { siteId, fileId }, async () => content);

describe("what is kept beside a site", () => {
  it("is known by its content, not by its name", () => {
    const of = (text: string) => typeByContent(Buffer.from(text, "latin1"));
    expect(typeByContent(PNG)).toBe("image/png");
    expect(of("\xff\xd8\xff\xe0")).toBe("image/jpeg");
    expect(of("RIFF1234WEBPVP8 ")).toBe("image/webp");
    expect(of("%PDF-1.7")).toBe("application/pdf");
    expect(of("<svg onload=alert(1)>")).toBe("application/octet-stream");
    expect(of("")).toBe("application/octet-stream");
  });
  it("comes back as it was, to whoever sees the site and nobody else", async () => {
    const { id, type, size } = await keep(PNG);
    expect({ type, size }).toEqual({ type: "image/png", size: PNG.length });
    expect((await keptFile(maren, { siteId, fileId: id })).content.equals(PNG)).toBe(true);
    await mustBeKept(maren, { siteId, fileId: id });
    expect((await refusal(keptFile(stranger, { siteId, fileId: id }))).code).toBe("notFound");
    expect((await refusal(keep(PNG, randomUUID(), stranger))).code).toBe("notFound");
    expect((await refusal(mustBeKept(maren, { siteId, fileId: randomUUID() }))).code).toBe("notFound");
    const other = (await importSite(stranger, JSON.stringify(smallSite()))).id;
    expect((await refusal(keptFile(stranger, { siteId: other, fileId: id }))).code).toBe("notFound");
  });
  it("sent twice is kept once; something else under the same id is refused, like nothing at all", async () => {
    const { id } = await keep(PNG);
    expect((await keep(PNG, id)).id).toBe(id);
    expect((await refusal(keep(Buffer.concat([PNG, PNG]), id))).code).toBe("conflict");
    expect((await refusal(keep(Buffer.alloc(0)))).code).toBe("badRequest");
    expect(await db()("kept_file").where({ id }).select("id")).toHaveLength(1);
  });
  it("stays once a revision names it, whatever comes after; what none names goes in a week", async () => {
    const [named, forgotten] = [await keep(PNG), await keep(PNG)];
    const { version, file } = await loadSite(maren, siteId);
    const withFile = structuredClone(file);
    Object.assign(withFile.stations[0] ?? {}, { files: [{ id: named.id, name: "valve box.png" }] });
    const saved = await saveSite(maren, siteId, { baseVersion: version, file: withFile, note: "" });
    expect(saved.changes.map((c) => c.words)).toEqual(["station 1 S1: file valve box.png"]);
    await saveSite(maren, siteId, { baseVersion: saved.version, file, note: "taken off again" });
    await tidy(new Date(Date.now() + 6 * 86_400_000));
    await mustBeKept(maren, { siteId, fileId: forgotten.id });
    await tidy(new Date(Date.now() + 9 * 86_400_000));
    await mustBeKept(maren, { siteId, fileId: named.id });
    expect((await refusal(mustBeKept(maren, { siteId, fileId: forgotten.id }))).code).toBe("notFound");
  });
  it("on an archived site nothing more is kept", async () => {
    const { id } = await importSite(
      maren,
      JSON.stringify(
        smallSite((s) => {
          s.site.id = "archived-one";
        }),
      ),
    );
    await archive(maren, id, true);
    const asked = keepFile(maren, { siteId: id, fileId: randomUUID() }, async () => PNG);
    expect((await refusal(asked)).code).toBe("conflict");
  });
});
