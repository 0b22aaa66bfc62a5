import { type APIRequestContext, expect, type Page, test } from "@playwright/test";
import pg from "pg";
import type { LearningView } from "../contracts/learning.ts";
import type { FlowSensor } from "../core/site-file/schema.ts";
import { DEMO_PASSWORD } from "../server/demo/people.ts";
import { MANAGER, violations } from "./people.ts";
import { aPocket, aSite, job, known, phone, signInThere, takeAlong } from "./phone.ts";

let office: APIRequestContext;
test.beforeAll(async ({ playwright, baseURL }) => {
  office = await playwright.request.newContext({ baseURL: baseURL as string });
  expect((await office.post("/api/session", { data: { email: MANAGER, password: DEMO_PASSWORD } })).status()).toBe(200);
});
test.afterAll(() => office.dispose());

/** A photograph of some size, made where it is taken. */
const PICTURE = Buffer.from(
  "iVBORw0KGgoAAAANSUhEUgAAAAEAAAABCAYAAAAfFcSJAAAADUlEQVR42mNk+M9QDwADhgGAWjR9awAAAABJRU5ErkJggg==",
  "base64",
);
const photograph = { name: "box.png", mimeType: "image/png", buffer: PICTURE };

/** An alarm of a station, as a recorder enters it; it locked its station out. */
async function raise(siteId: string, message: string): Promise<string> {
  const client = new pg.Client({ connectionString: process.env["DATABASE_URL"] });
  await client.connect();
  try {
    const { rows } = await client.query(
      `insert into alarm (organisation_id, site_id, at, kind, subject_id, measured_lpm, expected_lpm, message, locked)
       select organisation_id, id, now(), 'stationHigh', 's2', 140, 100, $2, '{}' from site where id = $1 returning id`,
      [siteId, message],
    );
    return rows[0].id as string;
  } finally {
    await client.end();
  }
}

/** What the console says of faults: there is none of it without a connection. That a request found no way is noted by the browser itself. */
function loud(page: Page): string[] {
  const said: string[] = [];
  page.on("pageerror", (e) => said.push(e.message));
  page.on("console", (m) => {
    if (m.type() === "error" && !/ERR_INTERNET_DISCONNECTED|ERR_NAME|ERR_CONNECTION/.test(m.text()))
      said.push(m.text());
  });
  return said;
}

async function aProblem(page: Page, kind: string, note: string): Promise<void> {
  await page.getByRole("button", { name: "Problem", exact: true }).tap();
  await page.getByRole("button", { name: kind }).tap();
  await page.getByLabel("Note").fill(note);
  await page.getByLabel("Photograph to add").setInputFiles(photograph);
  await expect(page.getByRole("main").locator("img")).toHaveCount(1);
  await page.getByRole("button", { name: "Note the problem" }).tap();
}

test("twenty stations are walked without a connection, the browser is closed in the middle, and back online everything is there once", async () => {
  const name = `Offline walk ${Date.now()}`;
  const siteId = await aSite(office, name, 20);
  const pocket = aPocket();
  const first = await phone(pocket);
  await signInThere(first.page);
  await takeAlong(first.page, name);
  await first.context.setOffline(true);
  const said = loud(first.page);
  await first.page.reload();
  await expect(first.page.getByText("No connection. What you enter waits here.")).toBeVisible();
  await first.page.getByText(name).tap();
  await job(first.page, "Walk").tap();
  await first.page.getByRole("button", { name: /Begin the walk/ }).tap();
  const station = (page: Page, n: number) => page.getByRole("article", { name: `${n} Bed ${n}` });
  const fine = async (page: Page, n: number): Promise<void> => {
    await expect(station(page, n)).toBeVisible();
    await page.getByRole("button", { name: /^Fine/ }).tap();
  };
  for (const n of [1, 2, 3]) await fine(first.page, n);
  await expect(station(first.page, 4)).toBeVisible();
  await first.page.getByLabel("Read, if you have it").fill("131");
  await aProblem(first.page, "broken head or pipe", "head by the gate is gone");
  for (const n of [5, 6, 7, 8, 9]) await fine(first.page, n);
  // Half a problem is typed when the battery dies.
  await expect(station(first.page, 10)).toBeVisible();
  await first.page.getByRole("button", { name: "Problem", exact: true }).tap();
  await first.page.getByRole("button", { name: "leak" }).tap();
  await first.page.getByLabel("Note").fill("wet round the box");
  await expect(first.page.getByRole("button", { name: /10 waiting to be sent/ })).toBeVisible();
  expect(said).toEqual([]);
  await expect(first.page.getByRole("main").getByRole("alert")).toHaveCount(0);
  await first.context.close();

  const second = await phone(pocket, true);
  const saidThen = loud(second.page);
  await second.page.goto(`/field?site=${siteId}&job=walk`);
  await expect(station(second.page, 10)).toBeVisible();
  await expect(second.page.getByLabel("Note")).toHaveValue("wet round the box");
  await second.page.getByLabel("Photograph to add").setInputFiles(photograph);
  await expect(second.page.getByRole("main").locator("img")).toHaveCount(1);
  await second.page.getByRole("button", { name: "Note the problem" }).tap();
  await expect(station(second.page, 11)).toBeVisible();
  await second.page.getByRole("button", { name: "Skip", exact: true }).tap();
  for (let n = 12; n <= 20; n++) await fine(second.page, n);
  await expect(second.page.getByText("20 of 20 stations looked at: 17 fine, 2 problems, 1 skipped.")).toBeVisible();
  await expect(second.page.getByRole("listitem").filter({ hasText: "head by the gate is gone" })).toBeVisible();
  await second.page.getByLabel("About the walk").fill("dry");
  await second.page.getByRole("button", { name: "End the walk" }).tap();
  await expect(second.page.getByRole("button", { name: /22 waiting to be sent/ })).toBeVisible();
  expect(saidThen).toEqual([]);
  expect((await known(office, siteId)).walks).toEqual([]);

  await second.context.setOffline(false);
  await expect(second.page.getByRole("button", { name: "all sent" })).toBeVisible({ timeout: 60_000 });
  const { walks, todos } = await known(office, siteId);
  expect(walks).toHaveLength(1);
  expect(walks[0]).toMatchObject({ by: "Tolly Brandish", note: "dry" });
  expect(walks[0]?.endedAt).not.toBeNull();
  const count = (state: string): number => walks[0]?.looked.filter((l) => l.state === state).length ?? 0;
  expect([count("fine"), count("problem"), count("skipped")]).toEqual([17, 2, 1]);
  expect(walks[0]?.looked.find((l) => l.stationId === "s4")?.readLpm).toBe(131);
  expect(todos.map((t) => t.words).sort()).toEqual([
    "10 Bed 10: leak. wet round the box",
    "4 Bed 4: broken head or pipe. head by the gate is gone",
  ]);
  for (const todo of todos) {
    expect(todo.photoIds).toHaveLength(1);
    const kept = await office.get(`/api/sites/${siteId}/files/${todo.photoIds[0]}`);
    expect(kept.headers()["content-type"]).toBe("image/jpeg");
  }
  // Sent already, and not again.
  await second.page.reload();
  await expect(second.page.getByRole("button", { name: "all sent" })).toBeVisible();
  expect((await known(office, siteId)).walks).toHaveLength(1);
  await second.context.close();
});

test("flows of two stations and the proof of a sensor by stopwatch, entered without a connection", async () => {
  const name = `Stopwatch ${Date.now()}`;
  const siteId = await aSite(office, name);
  const { context, page } = await phone(aPocket());
  await signInThere(page);
  await takeAlong(page, name);
  await page.getByText(name).tap();
  await job(page, "Learn, prove").tap();
  await context.setOffline(true);
  await page.getByRole("button", { name: "Start" }).tap();
  await expect(page.getByRole("timer")).not.toHaveText("0.0 s");
  // It runs on while somebody looks elsewhere.
  await job(page, "Site").tap();
  await job(page, "Learn, prove").tap();
  await page.getByRole("button", { name: "Stop" }).tap();
  await expect(page.getByLabel("Time, s")).not.toHaveValue("");
  const reading = async (seconds: string, litres: string): Promise<void> => {
    await page.getByLabel("Time, s").fill(seconds);
    await page.getByLabel("Went through, L").fill(litres);
    await page.getByRole("button", { name: "Keep this reading" }).tap();
  };
  await reading("60", "98");
  await reading("60", "102");
  await expect(page.getByText(/Together 100 L\/min/)).toBeVisible();
  await page.getByRole("button", { name: "Station after" }).tap();
  await reading("30", "47");
  await expect(page.getByText("Stations with readings that are not proposed yet")).toBeVisible();
  await page
    .getByRole("button", { name: "Propose 94.0 L/min for 2" })
    .or(page.getByRole("button", { name: "Propose 94 L/min for 2" }))
    .tap();
  await page.getByRole("button", { name: "1 (2)" }).tap();
  await page.getByRole("button", { name: "Propose 100 L/min for 1" }).tap();

  await page.getByRole("button", { name: "Flow sensor" }).tap();
  // K 1.6 and offset 0.3 Hz, two in a hundred off.
  const hz = (lpm: number): string => (lpm / 3.785411784 / (1.6 * 1.02) - 0.3).toFixed(4);
  const proofOf = async (n: number, lpm: number): Promise<void> => {
    const form = page.getByRole("region", { name: `Test ${n}` });
    await form.getByLabel("Meter at start, L").fill("1000");
    await form.getByLabel("Meter at end, L").fill(String(1000 + 2 * lpm));
    await form.getByLabel("Time, s").fill("120");
    await form.getByLabel("Frequency, Hz").fill(hz(lpm));
    await form.getByLabel("Frequency, Hz").blur();
  };
  await proofOf(1, 60);
  await page.getByRole("button", { name: "One more test" }).tap();
  await proofOf(2, 150);
  await expect(page.getByText(/Proved: readings change by \+2\.\d %/)).toBeVisible();
  await page.getByRole("button", { name: "Keep this proof" }).tap();
  await expect(page.getByRole("button", { name: /3 waiting to be sent/ })).toBeVisible();
  await context.setOffline(false);
  await expect(page.getByRole("button", { name: "all sent" })).toBeVisible({ timeout: 60_000 });

  const learned = (await (await office.get(`/api/sites/${siteId}/learning`)).json()) as LearningView;
  expect(learned.results.map((r) => [r.elementId, r.how, Math.round(r.meanLpm)]).sort()).toEqual([
    ["s1", "stopwatch", 100],
    ["s2", "stopwatch", 94],
  ]);
  const { file } = await known(office, siteId);
  const sensor = file.pocs[0]?.devices.find((d): d is FlowSensor => d.kind === "flowSensor");
  expect(sensor?.provings).toHaveLength(1);
  expect(sensor?.provings?.[0]?.by).toBe("Tolly Brandish");
  await context.close();
});

test("an alarm is acknowledged, pictured, cleared with its cause; one that the office cleared meanwhile asks", async () => {
  const name = `Alarm ${Date.now()}`;
  const siteId = await aSite(office, name);
  await raise(siteId, "first");
  const { context, page } = await phone(aPocket());
  await signInThere(page);
  await takeAlong(page, name);
  await page.getByText(name).tap();
  await job(page, "Alarms").tap();
  const alarm = page.getByRole("article", { name: "station high: 2 Bed 2" });
  await alarm.getByRole("button", { name: "Acknowledge" }).tap();
  await expect(alarm.getByText(/acknowledged by Tolly Brandish/)).toBeVisible();
  await alarm.getByLabel("Photograph of 2 Bed 2").setInputFiles(photograph);
  await alarm.getByRole("button", { name: "Cause, and clear" }).tap();
  await alarm.getByRole("button", { name: "broken lateral" }).tap();
  await alarm.getByText("It was repaired: learn the station again").tap();
  await alarm.getByRole("button", { name: "Clear it" }).tap();
  await expect(page.getByText("No alarm is open here.")).toBeVisible();
  await expect(page.getByRole("button", { name: "all sent" })).toBeVisible();
  const after = await known(office, siteId);
  expect(after.alarms[0]).toMatchObject({ state: "cleared", cause: "broken lateral" });
  expect(after.entries.map((e) => [e.action, e.hasPhoto])).toEqual([
    ["acknowledged", false],
    ["photo", true],
    ["cleared", false],
  ]);
  expect(after.file.stations[1]?.repairedAt).toBeDefined();

  const alarmId = await raise(siteId, "second");
  await page.reload();
  const open = page.getByRole("article", { name: "station high: 2 Bed 2" }).filter({ hasNotText: "cleared" });
  await expect(open).toBeVisible();
  await context.setOffline(true);
  await open.getByRole("button", { name: "Cause, and clear" }).tap();
  await open.getByLabel("What was the cause").fill("nozzle missing");
  await open.getByRole("button", { name: "Clear it" }).tap();
  await expect(page.getByRole("button", { name: /1 waiting to be sent/ })).toBeVisible();
  const cleared = await office.post(`/api/sites/${siteId}/alarms/${alarmId}`, {
    data: { action: "clear", cause: "meter read wrong" },
  });
  expect(cleared.status()).toBe(200);
  await context.setOffline(false);
  await page.getByRole("button", { name: /1 needs your answer/ }).tap();
  await expect(page.getByText(/Maren .*cleared this alarm meanwhile/)).toBeVisible();
  expect((await known(office, siteId)).alarms.find((a) => a.id === alarmId)?.cause).toBe("meter read wrong");
  await page.getByRole("button", { name: "Add it as a note" }).tap();
  await expect(page.getByText("Nothing waits. Everything you entered is with the office.")).toBeVisible();
  const { alarms, entries } = await known(office, siteId);
  expect(alarms.find((a) => a.id === alarmId)?.cause).toBe("meter read wrong");
  expect(entries.filter((e) => e.alarmId === alarmId).map((e) => [e.action, e.words])).toEqual([
    ["cleared", "meter read wrong"],
    ["note", "nozzle missing"],
  ]);
  await context.close();
});

test("a visit is gone through in Spanish, every job can be read in the sun and pressed with a thumb", async () => {
  const name = `Visita ${Date.now()}`;
  const siteId = await aSite(office, name);
  await raise(siteId, "open");
  const { context, page } = await phone(aPocket());
  await signInThere(page);
  const readable = async (where: string): Promise<void> => {
    expect(await violations(page, { rules: ["color-contrast-enhanced"] }), `${where}, contrast`).toEqual([]);
    expect(await violations(page, { tags: ["wcag2a", "wcag2aa", "wcag22aa"] }), where).toEqual([]);
    const small = await page
      .locator("button:visible, a[href]:visible, select:visible, input:not([type=file]):visible")
      .evaluateAll((all) =>
        all.flatMap((e) => {
          // A tick is pressed on its whole line.
          const { width, height } = (e.closest("label") ?? e).getBoundingClientRect();
          return height < 43.5 || width < 43.5
            ? [`${e.tagName} ${e.textContent?.slice(0, 40)} ${width}×${height}`]
            : [];
        }),
      );
    expect(small, `${where}, targets`).toEqual([]);
    const wide = await page.evaluate(() => document.documentElement.scrollWidth);
    expect(wide, `${where}, width`).toBeLessThanOrEqual(390);
  };
  await readable("sites");
  await takeAlong(page, name);
  await page.getByText(name).tap();
  for (const j of ["Site", "Walk", "Learn, prove", "Alarms", "Visit"]) {
    await job(page, j).tap();
    await readable(j);
  }
  await page.getByRole("button", { name: "You" }).tap();
  await page.getByRole("button", { name: "Español" }).tap();
  await page.getByRole("heading", { name }).tap();
  await expect(page.locator("html")).toHaveAttribute("lang", "es");
  await page.getByRole("button", { name: "Empezar: Mensual" }).tap();
  await page
    .getByRole("group", { name: "Su reloj y su fecha están bien" })
    .getByRole("button", { name: "En orden", exact: true })
    .tap();
  await page.getByRole("group", { name: "Bomba" }).getByRole("button", { name: "No está en orden" }).tap();
  await page.getByLabel("Qué hay que hacer").fill("La bomba zumba");
  await page.getByRole("button", { name: "Anotar el problema" }).tap();
  await page.getByRole("button", { name: "Terminar la visita" }).tap();
  await page.getByRole("button", { name: "Terminar la visita" }).tap();
  await expect(page.getByText("Visitas anteriores")).toBeVisible();
  await expect(page.getByRole("button", { name: "todo enviado" })).toBeVisible();
  const { visits, todos } = await known(office, siteId);
  expect(visits[0]).toMatchObject({ name: "Monthly", by: "Tolly Brandish" });
  expect(todos.map((t) => t.words)).toEqual(["La bomba zumba"]);
  for (const j of ["Sitio", "Recorrido", "Medir, probar", "Alarmas"]) {
    await page
      .getByRole("navigation")
      .getByRole("button", { name: new RegExp(`^${j}`) })
      .tap();
    await readable(j);
  }
  // Another browser of hers is in Spanish too: it is the person's.
  await page.getByRole("button", { name: "Usted" }).tap();
  await page.getByRole("button", { name: "English" }).tap();
  await context.close();
});

test("signing out with entries waiting asks; a lost phone is wiped at its next contact", async ({
  baseURL,
  playwright,
}) => {
  const name = `Lost phone ${Date.now()}`;
  await aSite(office, name);
  const { context, page } = await phone(aPocket());
  await signInThere(page);
  await takeAlong(page, name);
  await page.getByText(name).tap();
  await context.setOffline(true);
  await job(page, "Walk").tap();
  await page.getByRole("button", { name: /Begin the walk/ }).tap();
  await page.getByRole("button", { name: "You" }).tap();
  await page.getByRole("button", { name: "Sign out" }).tap();
  await expect(page.getByText(/1 entry waits to be sent/)).toBeVisible();
  await page.getByRole("button", { name: "Stay", exact: true }).tap();
  // The office ends every session of hers.
  const hers = await playwright.request.newContext({ baseURL: baseURL as string });
  const { people } = (await (await office.get("/api/people")).json()) as { people: { id: string; email: string }[] };
  const id = people.find((p) => p.email === "tolly@presa.example")?.id;
  expect((await office.patch(`/api/people/${id}`, { data: { action: "signOut" } })).status()).toBe(200);
  await hers.dispose();
  await context.setOffline(false);
  await expect(page.getByText("This phone was signed out from the office. What it held is wiped.")).toBeVisible();
  expect(await page.evaluate(async () => (await indexedDB.databases()).map((d) => d.name))).toEqual([]);
  await page.reload();
  await expect(page.getByRole("link", { name: "Sign in" })).toBeVisible();
  await context.close();
});
