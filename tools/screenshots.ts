import { chromium } from "@playwright/test";
import { DEMO_PASSWORD, DEMO_USERS } from "../server/demo/people.ts";

/** `npm run screenshots`: one picture of each main view from the demo data, from a running Presa (PRESA_URL). */
const base = process.env["PRESA_URL"] ?? "http://127.0.0.1:4310";
const browser = await chromium.launch({ executablePath: "/usr/bin/chromium", args: ["--no-sandbox", "--disable-gpu"] });
const page = await (
  await browser.newContext({
    viewport: { width: 1280, height: 800 },
    timezoneId: "America/Los_Angeles",
    locale: "en-GB",
  })
).newPage();
// The same drill each time; but no two draws alike, since messages to workers are told apart by them.
await page.addInitScript(() => {
  let state = 2718281;
  Math.random = () => {
    state = (state * 16807) % 2147483647;
    return state / 2147483647;
  };
});
const shot = (name: string) => page.screenshot({ path: `docs/screenshots/${name}.png` });
await page.goto(`${base}/sign-in`);
await page.getByLabel("E-mail").fill(DEMO_USERS[0].email);
await page.getByLabel("Password").fill(DEMO_PASSWORD);
await page.getByRole("button", { name: "Sign in" }).click();
await page.locator("tbody tr").first().waitFor();
// A demo that was only just begun is still being worked out.
await page.getByText("being worked out").first().waitFor({ state: "hidden", timeout: 60_000 });
await shot("rounds");
await page.goto(`${base}/many`);
await page.getByRole("button", { name: "Tick all" }).click();
await page.getByRole("button", { name: /^See what it does/ }).click();
await page.getByRole("button", { name: /^Change \d/ }).waitFor({ timeout: 60_000 });
await shot("many-sites");
const listed = (await (await page.request.get(`${base}/api/sites`)).json()) as {
  sites: { id: string; name: string }[];
};
const sites = new Map(listed.sites.map((x) => [x.name, x.id]));
const view = (name: string): Promise<void> => page.getByRole("tablist").getByRole("tab", { name, exact: true }).click();
/** A night of the watering season, in which there is something to see. */
const SUMMER = "2026-07-13";
const open = async (site: string, screen: string): Promise<void> => {
  await page.goto(`${base}/sites/${sites.get(site)}/${screen}`);
  await page.locator('[data-night="done"]').waitFor({ timeout: 60_000 });
  await page.waitForTimeout(2000);
};
await open("Lakeside Park", "waterworks");
await page.getByRole("button", { name: /^Boathouse pump room, ceiling/ }).focus();
await page.keyboard.press("Enter");
await page.getByRole("button", { name: /^Boathouse pump room/, expanded: true }).waitFor();
await page.waitForTimeout(500);
await shot("waterworks");
await view("Pressure");
await page.getByText(/^Worst/).waitFor();
await page.getByLabel("Running").selectOption({ index: 1 });
await shot("pressure");
await open("Sallow Court housing", "sensors");
await shot("sensors");
await open("Quarrel Hill campus", "stations");
await shot("stations");
await open("Hollin Bank estate", "programs");
await shot("programs");
await open("Hollin Bank estate", "learn");
await page.getByRole("button", { name: "Rehearse on the bench" }).click();
await page.getByRole("button", { name: /Learn \d+ stations on the bench/ }).click();
await page.waitForTimeout(7000);
await shot("learn");
await page.getByRole("button", { name: "Stop, keep what it has" }).click();
await open("Marrow Field sports ground", `night?date=${SUMMER}`);
await shot("night");
await open("Larkspur Clinic garden", "limits");
await shot("limits");
await open("Tidewell Meadow park", `bench?date=${SUMMER}`);
await page.getByRole("button", { name: "fault", exact: true }).click();
await page.getByLabel("Fault", { exact: true }).selectOption("mainlineBreak");
await page.getByRole("button", { name: "Run the night" }).click();
await page.getByText("delivered").waitFor({ timeout: 30_000 });
await page.waitForTimeout(800);
await shot("bench");
await open("Hollin Bank estate", "bench");
await view("Drill");
await page.getByRole("button", { name: "Begin a drill" }).click();
await page.getByRole("group", { name: "Master valves" }).getByRole("button").first().click();
await page.getByRole("button", { name: "Read the sensors" }).click();
await page.getByRole("group", { name: "Pumps" }).getByRole("button").first().click();
for (const station of [7, 8]) {
  await page.getByRole("group", { name: "Stations" }).getByRole("button").nth(station).click();
  await page.getByRole("button", { name: "Read the sensors" }).click();
}
await shot("drill");
// bin/start plays this site; a night of it is played again.
await open("Tidewell Meadow park", "bench");
await view("Live");
await page.getByLabel("at", { exact: true }).fill("22:02");
await page.getByLabel("at", { exact: true }).press("Enter");
await page.getByLabel("Seconds of it in one, s").fill("60");
await page.getByLabel("Seconds of it in one, s").press("Enter");
await page.getByRole("button", { name: "Play from there" }).click();
await page.waitForTimeout(25_000);
await page.getByRole("table", { name: "Open now" }).waitFor({ timeout: 60_000 });
await page.evaluate(() => window.scrollTo(0, 0));
await shot("live");
await page.goto(`${base}/sites/${sites.get("Quarrel Hill campus")}/night?view=last`);
await page.getByRole("img", { name: /mornings; on the last/ }).waitFor({ timeout: 60_000 });
await page.waitForTimeout(500);
await shot("last-night");
await open("Quarrel Hill campus", "controllers");
await page
  .getByRole("table", { name: /^Differences at/ })
  .first()
  .waitFor({ timeout: 60_000 });
await shot("controllers");
await open("Larkspur Clinic garden", "log");
await shot("log");
await page.goto(`${base}/calendar`);
await page.getByRole("grid").or(page.getByRole("table")).first().waitFor();
await page.waitForTimeout(800);
await shot("calendar");
await page.goto(`${base}/water`);
await page.getByRole("table").first().waitFor();
await page.waitForTimeout(1500);
await shot("water");
// The same person's phone, on a walk.
const phone = await browser.newContext({
  viewport: { width: 390, height: 844 },
  hasTouch: true,
  isMobile: true,
  timezoneId: "America/Los_Angeles",
  storageState: await page.context().storageState(),
});
const held = await phone.newPage();
await held.goto(`${base}/field?site=${sites.get("Larkspur Clinic garden")}&job=walk`);
const begin = held.getByRole("button", { name: /^Begin the walk/ });
await begin.or(held.getByRole("article")).first().waitFor();
if (await begin.isVisible()) await begin.tap();
await held.getByLabel(/^Read, if you have it/).fill("18.2");
await held.getByLabel(/^Read, if you have it/).blur();
await held.getByRole("button", { name: "all sent" }).waitFor();
await held.screenshot({ path: "docs/screenshots/phone.png" });
await browser.close();
