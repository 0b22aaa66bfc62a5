import { expect, type Page, test } from "@playwright/test";
import { fill, nothingUnsaved, save, screen, settled, signIn, view, VIEWER, violations } from "./people.ts";

/** Pages of the organisation, and what they show once they are there. */
const OFFICE: [path: string, table: string][] = [
  ["/organisation", "People"],
  ["/organisation?view=sites", "Sites by client, area and crew"],
  ["/organisation?view=audit", "Who did what"],
  ["/organisation?view=visits", "Due anew"],
  ["/account", "Sessions"],
  ["/many", "Sites to change"],
  ["/water", "Water by site"],
];

/** What the browser complained of since. */
function complaints(page: Page): string[] {
  const problems: string[] = [];
  page.on("pageerror", (e) => problems.push(e.message));
  page.on("console", (m) => {
    if (m.type() === "error") problems.push(m.text());
  });
  return problems;
}

/** The page as it stands passes axe by day, and its colours by night as well: the themes differ in nothing else. */
async function passesInBothThemes(page: Page, name: string): Promise<void> {
  expect(await violations(page), name).toEqual([]);
  const root = page.locator("html");
  await root.evaluate((html) => html.setAttribute("data-theme", "night"));
  expect(await violations(page, { rules: ["color-contrast"] }), `${name}, by night`).toEqual([]);
  await root.evaluate((html) => html.setAttribute("data-theme", "day"));
}

test("the demo county: Rounds sorts by need, and every page of the office passes axe in both themes", async ({
  page,
}) => {
  test.setTimeout(240_000);
  const problems = complaints(page);
  await signIn(page);
  await expect(page.locator("tbody tr").first()).toContainText(/alarm/);
  await passesInBothThemes(page, "Rounds");
  await page.getByRole("link", { name: "Library", exact: true }).click();
  await expect(page.getByRole("heading", { name: "Library", level: 1 })).toBeVisible();
  await passesInBothThemes(page, "Library");
  for (const [path, table] of OFFICE) {
    await page.goto(path);
    await expect(page.getByRole("table", { name: table })).toBeVisible();
    await passesInBothThemes(page, path);
  }
  await page.goto("/calendar");
  await expect(page.getByRole("grid")).toBeVisible();
  await passesInBothThemes(page, "Calendar");
  await page.goto("/");
  await page.getByRole("link", { name: "Alarms", exact: true }).click();
  await expect(page.getByRole("heading", { name: "Alarms", level: 1 })).toBeVisible();
  await expect(page.getByRole("article").first()).toBeVisible();
  await passesInBothThemes(page, "Alarms");
  await page.getByRole("button", { name: /^Maren Oddsdatter/ }).click();
  await page.getByRole("button", { name: "Night theme" }).click();
  await expect(page.locator("html")).toHaveAttribute("data-theme", "night");
  await page.getByRole("button", { name: "Day theme" }).click();
  await expect(page.locator("html")).toHaveAttribute("data-theme", "day");
  expect(problems).toEqual([]);
});

test("every screen of a site opens without a fault and passes axe in both themes", async ({ page }) => {
  test.setTimeout(300_000);
  const problems = complaints(page);
  await signIn(page);
  await page.getByRole("link", { name: "Hollin Bank estate" }).click();
  await screen(page, "Waterworks");
  for (const name of ["Devices and wires", "Pressure", "Pipe chart", "Exchange", "Drawing"]) {
    await view(page, name);
    await settled(page);
    await passesInBothThemes(page, name);
  }
  for (const name of ["Sensors", "Stations", "Programs", "Learn", "Night", "Limits", "Bench", "Log"]) {
    await screen(page, name);
    await settled(page);
    await passesInBothThemes(page, name);
  }
  await view(page, "Water");
  await expect(page.getByRole("table", { name: "Water used" })).toBeVisible();
  await passesInBothThemes(page, "Water");
  expect(problems).toEqual([]);
});

test("an edit shows at once what it changes at the tell-line, undo takes it back, a second writer is told", async ({
  page,
  browser,
}) => {
  await signIn(page);
  await page.getByRole("link", { name: "Tidewell Meadow park" }).click();
  await screen(page, "Programs");
  const ends = page.locator('[data-tell="ends"]');
  await expect(ends).toHaveText(/\d\d:\d\d/);
  const before = await ends.textContent();
  const atOnce = page.getByRole("region", { name: /^How/ }).getByLabel("Stations at once");
  await atOnce.fill("1");
  await atOnce.blur();
  await expect(page.getByLabel("Tell-line")).toContainText(`was ${before}`);
  await page.getByRole("button", { name: "Undo" }).click();
  await expect(ends).toHaveText(before ?? "");

  const other = await (await browser.newContext()).newPage();
  await signIn(other, "tolly@presa.example");
  await other.getByRole("link", { name: "Tidewell Meadow park" }).click();
  await screen(other, "Programs");
  const priority = page.getByLabel("Priority");
  await fill(other, "Priority", "3");
  await atOnce.fill("4");
  await atOnce.blur();
  await save(other);
  await expect(page.getByRole("status").filter({ hasText: "Tolly Brandish saved revision" })).toBeVisible();
  // Each changed something else: put together, nothing asked.
  await save(page);
  await expect(atOnce).toHaveValue("4");
  await expect(priority).toHaveValue("3");
  await expect(other.getByLabel("Stations at once")).toHaveValue("4");

  await fill(page, "Priority", "7");
  await fill(other, "Priority", "5");
  await save(other);
  await other.context().close();
  // Told at once, before anything is saved here.
  const told = page.getByRole("alertdialog");
  await expect(told).toContainText("Tolly Brandish saved revision");
  await expect(told).toContainText("priority 3 → 5");
  await told.getByRole("button", { name: /Take theirs/ }).click();
  await expect(priority).toHaveValue("5");
  await expect(atOnce).toHaveValue("4");
});

test("bad input gets a sentence and nothing changes", async ({ page }) => {
  await signIn(page);
  await page.getByRole("link", { name: "Larkspur Clinic garden" }).click();
  await screen(page, "Programs");
  const atOnce = page.getByRole("region", { name: /^How/ }).getByLabel("Stations at once");
  await atOnce.fill("0");
  await atOnce.blur();
  await expect(page.getByText("Stations at once must be at least 1 and at most 10,000.")).toBeVisible();
  await atOnce.fill("many");
  await atOnce.blur();
  await expect(page.getByText('"many" is not a number')).toBeVisible();
  await nothingUnsaved(page);
  for (const day of ["Mon", "Wed", "Fri"])
    await page.getByRole("group", { name: "Weekdays" }).getByRole("button", { name: day }).click();
  await page.getByRole("button", { name: "Save", exact: true }).click();
  await expect(page.getByRole("alert").filter({ hasText: "has no days" })).toBeVisible();
  await page.getByRole("button", { name: "Discard all" }).click();

  await screen(page, "Stations");
  await page.locator('[data-station="2"][data-column="number"]').click();
  await page.keyboard.press("Enter");
  await page.keyboard.press("Control+a");
  await page.keyboard.type("1");
  await page.keyboard.press("Enter");
  await expect(page.getByRole("alert").filter({ hasText: "Number 1 is already used" })).toBeVisible();
  await page.keyboard.press("Escape");
  await nothingUnsaved(page);
});

test("a viewer looks and cannot change", async ({ page }) => {
  await signIn(page, VIEWER);
  await expect(page.getByRole("button", { name: "New site" })).toBeHidden();
  await page.getByRole("link", { name: "Hollin Bank estate" }).click();
  await screen(page, "Programs");
  await expect(page.getByLabel("Priority")).toBeDisabled();
  await screen(page, "Log");
  await view(page, "Revisions");
  await expect(page.getByRole("button", { name: "Put back" })).toHaveCount(0);
});

for (const [name, width, height] of [
  ["at twice the size", 640, 400],
  ["on a phone", 390, 844],
] as const)
  test(`${name} every view can be read and hit, and nothing spills sideways`, async ({ page }) => {
    test.setTimeout(480_000);
    await page.setViewportSize({ width, height });
    await signIn(page);
    const { sites } = (await (await page.request.get("/api/sites")).json()) as {
      sites: { id: string; name: string }[];
    };
    const site = `/sites/${sites.find((s) => s.name === "Hollin Bank estate")?.id}`;
    const views = [
      "waterworks",
      "waterworks?view=plan",
      "waterworks?view=devices",
      "waterworks?view=pressure",
      "sensors",
      "sensors?view=counters",
      "sensors?view=meter",
      "stations",
      "programs",
      "programs?view=site",
      "programs?view=sheet",
      "learn?view=ledger",
      "learn?view=field",
      "night",
      "night?view=last",
      "night?view=weeks",
      "night?view=watch",
      "limits",
      "limits?view=mains",
      "limits?view=budget",
      "bench",
      "bench?view=drill",
      "log",
      "log?view=visits",
      "log?view=todo",
      "log?view=water",
      "controllers?view=valves",
      "findings",
    ];
    for (const path of [
      "/",
      "/?view=places",
      "/alarms",
      "/calendar",
      "/library",
      "/profiles",
      ...OFFICE.map(([path]) => path),
      ...views.map((v) => `${site}/${v}`),
    ]) {
      await page.goto(path);
      if (path.startsWith(site)) await settled(page);
      const table = OFFICE.find(([of]) => of === path)?.[1];
      if (table) {
        await expect(page.getByRole("table", { name: table })).toBeVisible();
        // What is wider than its place is found out when it is drawn.
        await page.evaluate(() => new Promise((drawn) => requestAnimationFrame(() => requestAnimationFrame(drawn))));
      }
      expect(await violations(page, { tags: ["wcag2a", "wcag2aa", "wcag21aa", "wcag22aa"] }), path).toEqual([]);
      const over = await page.evaluate(
        () => document.documentElement.scrollWidth - document.documentElement.clientWidth,
      );
      expect(over, path).toBeLessThanOrEqual(0);
    }
  });
