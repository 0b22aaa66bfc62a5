import { readFileSync } from "node:fs";
import { expect, test } from "@playwright/test";
import { readDate } from "../components/kit/dates.ts";
import { addPiece, fill, nothingUnsaved, save, screen, signIn, view } from "./people.ts";

test("120 stations pasted, two programs written, the night improved and the better settings taken", async ({
  page,
  context,
}) => {
  test.setTimeout(120_000);
  await context.grantPermissions(["clipboard-read", "clipboard-write"]);
  await signIn(page);
  await page.getByRole("button", { name: "New site" }).click();
  await page.getByLabel("Name of the site").fill(`Night site ${Date.now()}`);
  await page.getByLabel("Time zone").fill("America/Los_Angeles");
  await page.getByRole("button", { name: /^Create and draw/ }).click();
  const ledger = page.getByRole("complementary", { name: "Ledger" });
  await addPiece(page, "Source");
  await fill(page, "Static pressure, kPa", "600");
  await addPiece(page, "Point of connection");
  await ledger.getByRole("group", { name: "Add a piece" }).getByRole("button", { name: "Water meter" }).click();
  await fill(page, "Continuous rating, L/min", "900");
  await ledger.getByRole("group", { name: "Add a piece" }).getByRole("button", { name: "Master valve" }).click();
  for (const size of ["4 in", "3 in"]) {
    await addPiece(page, "Mainline");
    await ledger.getByRole("group", { name: "Add a piece" }).getByRole("button", { name: "Pipe" }).click();
    await page.getByRole("combobox", { name: "Nominal size" }).selectOption(size);
  }
  for (let i = 0; i < 2; i++) await addPiece(page, "Controller");
  await save(page);

  await screen(page, "Stations");
  const rows = [
    "No.\tName\tController\tMainline\tEmitter\tDesign",
    ...Array.from(
      { length: 120 },
      (_, i) =>
        `${i + 1}\tPlot ${i + 1}\tController ${i < 60 ? 1 : 2}\tMain ${i % 3 === 0 ? 2 : 1}\trotor\t${35 + ((i * 17) % 85)}`,
    ),
  ];
  await page.evaluate((text) => navigator.clipboard.writeText(text), rows.join("\n"));
  await page.getByRole("gridcell").first().click();
  await page.keyboard.press("Control+v");
  await expect(page.getByText("Pasted: 120 added, 0 changed")).toBeVisible();
  await save(page);

  await screen(page, "Programs");
  for (const controller of ["Controller 1", "Controller 2"]) {
    await page.getByRole("button", { name: "Program", exact: true }).click();
    await page.getByRole("combobox", { name: "Controller", exact: true }).selectOption({ label: controller });
    await fill(page, "Minutes for all not yet in, min", controller === "Controller 1" ? "9" : "14");
    await page.getByRole("button", { name: "Add 60 stations" }).click();
    const atOnce = page.getByRole("region", { name: /^How/ }).getByLabel("Stations at once");
    await atOnce.fill("4");
    await atOnce.blur();
  }
  await save(page);

  await screen(page, "Night");
  const ends = page.locator('[data-tell="ends"]');
  await expect(ends).toHaveText(/\d\d:\d\d/);
  await view(page, "Better night");
  const better = page.getByRole("region", { name: "A better night" });
  await better.getByRole("checkbox", { name: "priorities" }).uncheck();
  await better.getByRole("button", { name: "Search", exact: true }).click();
  await expect(better.getByRole("list", { name: "Settings to change" })).toBeVisible({ timeout: 15_000 });
  await expect(better.getByText(/priority/)).toHaveCount(0);
  await expect(better.getByRole("group", { name: /The night from/ })).toHaveCount(2);
  const words = await better.getByRole("status").textContent();
  const [, now, was] = /ends (\d\d:\d\d(?: next day)?), was (\d\d:\d\d(?: next day)?)/.exec(words ?? "") ?? [];
  expect(now).not.toBe(was);
  const first = better.getByRole("list", { name: "Settings to change" }).getByRole("checkbox").first();
  await first.uncheck();
  await expect(better.getByRole("button", { name: /^Take \d of \d settings/ })).toBeVisible();
  await first.check();
  await better.getByRole("button", { name: /^Take all of/ }).click();
  await expect(ends).toContainText(now ?? "");
  await expect(page.getByLabel("Tell-line")).toContainText(`was ${was}`);
  await save(page);

  await view(page, "What if");
  const whatIf = page.getByRole("region", { name: "What if" });
  await whatIf.getByRole("slider").first().focus();
  for (let i = 0; i < 4; i++) await page.keyboard.press("ArrowRight");
  await expect(whatIf.getByRole("status")).toContainText(/Ends \d\d:\d\d( next day)? \(now \d\d:\d\d( next day)?\)/);
  await whatIf.getByLabel("out of service").selectOption({ label: "Source 1" });
  await expect(whatIf.getByRole("status")).toContainText("1,656 min unwatered");
});

test("the night as files, six weeks with the budget, the week as hours, the setup sheet", async ({ page }) => {
  test.setTimeout(90_000);
  await signIn(page);
  await page.getByRole("link", { name: "Hollin Bank estate" }).click();
  await screen(page, "Night");
  const save = async (kind: string): Promise<string> => {
    const saved = page.waitForEvent("download");
    await page.getByRole("button", { name: "Take out" }).click();
    await page.getByRole("button", { name: new RegExp(`\\(${kind}\\)`) }).click();
    return readFileSync(await (await saved).path(), "utf8");
  };
  const rows = (await save("CSV")).trim().split("\n");
  expect(rows.length).toBeGreaterThan(18);
  expect(rows[1]).toContain("Well house");
  const picture = await save("SVG");
  expect(picture).toContain("Estate main");
  expect(picture).not.toMatch(/var\(--|color-mix/);
  expect(await save("iCalendar")).toMatch(/BEGIN:VEVENT[\s\S]*SUMMARY:(Turf|Beds and slopes)\\, Hollin Bank estate/);

  await view(page, "Six weeks");
  const weeks = page.getByRole("region", { name: "Six weeks" });
  await expect(weeks.getByRole("button")).toHaveCount(42, { timeout: 20_000 });
  const other = weeks.getByRole("button").nth(10);
  const date = ((await other.getAttribute("aria-label")) ?? "").slice(0, 10);
  await other.click();
  const shown = page.getByLabel("Night of", { exact: true });
  await expect.poll(async () => readDate(await shown.inputValue(), "us")).toBe(date);

  await screen(page, "Programs");
  const grid = page.getByRole("group", { name: "Hours of the week" });
  await grid.getByRole("button", { name: "mon 12:00, no watering" }).click();
  await expect(grid.getByRole("button", { name: "mon 12:00, may water" })).toBeVisible();
  await expect(page.getByRole("region", { name: "Unsaved changes" })).toContainText("windows");
  await page.getByRole("button", { name: "Discard all" }).click();
  await fill(page, "Percent by month, Jul, %", "130");
  await expect(page.getByLabel("Percent by month, Jan, %")).toHaveValue("100");
  await page.getByRole("button", { name: "Discard all" }).click();

  await view(page, "Setup sheet");
  const sheet = page.getByRole("region", { name: "Setup sheet" });
  await expect(sheet).toContainText("odd dates, not the 31st and 29 February");
  await expect(sheet.getByRole("row").filter({ hasText: "A start in all" }).first()).toContainText("360 min");
});

test("new planting is established in dated steps, and a walk test tells its length", async ({ page }) => {
  await signIn(page);
  await page.getByRole("link", { name: "Tidewell Meadow park" }).click();
  await screen(page, "Programs");
  await page.getByRole("button", { name: "Establish new turf or planting" }).click();
  const panel = page.getByRole("region", { name: "Establishment" });
  await fill(page, "Step 1, starts", "5:00 25:00");
  await expect(panel.getByRole("alert")).toContainText('"25:00" is no time of day');
  await fill(page, "Step 1, starts", "5:00 11:00");
  await panel.getByRole("button", { name: "Write 5 dated programs" }).click();
  await expect(
    page.getByRole("navigation", { name: "Programs" }).getByRole("button", { name: /^Establishment/ }),
  ).toHaveCount(5);
  await page.getByRole("button", { name: "Discard all" }).click();
  // Begun while the source has no hours to wait for.
  await page.clock.setFixedTime(new Date("2026-11-27T08:17:00Z"));
  await view(page, "One-off run");
  const once = page.getByRole("region", { name: "One-off run" });
  await expect(once.getByRole("status")).toContainText("28 openings");
  await once.getByLabel("Kind").selectOption({ label: "one station" });
  await expect(once.getByRole("status")).toContainText("ignores rain, wind and frost");
  await nothingUnsaved(page);
  await page.goto("/");
  await page.getByRole("link", { name: "Lakeside Park" }).click();
  await screen(page, "Programs");
  await view(page, "One-off run");
  await expect(once.getByRole("status")).toContainText(
    "136 min from the press of the button to the last close, 68 openings",
  );
});

test("a kind of controller is described, named on a site, and its setup sheet rounded to it", async ({ page }) => {
  await signIn(page);
  await page.getByRole("link", { name: "Kinds of controller" }).click();
  const name = `Yard box ${Date.now()}`;
  await page.getByRole("button", { name: "Begin from Plain wall clock" }).click();
  await fill(page, "Its name among you", name);
  await fill(page, "Stations at once", "2");
  await page.getByRole("button", { name: "Keep this kind" }).click();
  await expect(
    page.getByRole("table", { name: "Kinds of controller" }).getByRole("cell", { name, exact: true }),
  ).toBeVisible();
  await page.goto("/");
  await page.getByRole("link", { name: "Hollin Bank estate" }).click();
  await screen(page, "Waterworks");
  await page
    .getByRole("complementary", { name: "Ledger" })
    .getByRole("button", { name: "Well house", exact: true })
    .last()
    .click();
  await page.getByLabel("Kind, by its profile").selectOption({ label: name });
  await screen(page, "Programs");
  await view(page, "Setup sheet");
  const sheet = page.getByRole("region", { name: "Setup sheet" });
  await expect(sheet).toContainText(`As ${name} takes it:`);
  await sheet.getByText("Every difference").click();
  await expect(sheet.getByRole("list", { name: "Differences from what was wanted" })).toContainText(
    "Turf: stations at once 3 → 2",
  );
  await expect(sheet).toContainText(/The night so rounded ends/);
});

test("a rain stop: who stops for it, what the night is then, and a bypass that is told everywhere", async ({
  page,
}) => {
  await signIn(page);
  await page.getByRole("link", { name: "Lakeside Park" }).click();
  await screen(page, "Programs");
  await view(page, "Site and weather");
  const inputs = page.getByRole("region", { name: "Weather inputs" });
  await expect(inputs).toContainText("123 stations follow it, 27 ignore it");
  await inputs.getByLabel("bypassed").first().check();
  await expect(inputs).toContainText("stops, starts and pauses nothing");
  await expect(page.getByText(/^Whole site: .*one bypassed/)).toBeVisible();
  await fill(page, "Percent from the weather", "50");
  await screen(page, "Night");
  await expect(page.getByText("The weather makes it 50 %.")).toBeVisible();
  await view(page, "What if");
  const whatIf = page.getByRole("region", { name: "What if" });
  await whatIf.getByLabel("an input says stop").selectOption({ label: "Rain dish, west lodge (bypassed)" });
  await expect(whatIf.getByRole("status")).toContainText("no station stops");
  await page.getByRole("button", { name: "Discard all" }).click();
  await whatIf.getByLabel("an input says stop").selectOption({ label: "Rain dish, west lodge" });
  await expect(whatIf.getByRole("status")).toContainText(/\d+ stations stop, \d+ water on/);
});

test("a soil probe pauses a program within the night, and the night says for how long", async ({ page }) => {
  await signIn(page);
  await page.getByRole("link", { name: "Lakeside Park" }).first().click();
  await screen(page, "Programs");
  await view(page, "Calendar of all");
  await page.getByRole("region", { name: "All programs" }).getByRole("button", { name: "Meadow" }).click();
  await expect(
    page.getByRole("navigation", { name: "Programs" }).getByRole("button", { name: /^Meadow/ }),
  ).toHaveAttribute("aria-current", "true");
  await view(page, "Site and weather");
  const probe = page.getByRole("group", { name: "Simulated readings of Soil probe, meadow" });
  for (const [n, time, value] of [
    [1, "21:40", "45"],
    [2, "22:40", "20"],
  ] as const) {
    await probe.getByRole("button", { name: "reading", exact: true }).click();
    await probe.getByLabel(`Reading ${n} of Soil probe, meadow: at`).fill(time);
    await fill(page, `Reading ${n} of Soil probe, meadow, %`, value);
  }
  await view(page, "Programs");
  await expect(page.getByRole("group", { name: "Started or paused by an input" })).toContainText("21:40 to 22:40");
  await screen(page, "Night");
  await page.getByRole("button", { name: "Table" }).click();
  // Rows out of view are not drawn: those of the meadow together.
  await page.getByRole("table", { name: "Runs of the night" }).getByRole("button", { name: "Program" }).click();
  await expect(
    page
      .getByRole("table", { name: "Runs of the night" })
      .getByText(/an input paused it \(Soil probe, meadow\)/)
      .first(),
  ).toBeVisible();
  await page.getByRole("button", { name: "Discard all" }).click();
});

test("a break that no limit sees stands on Rounds in the morning, is looked into by its readings, and is left with a note", async ({
  page,
}) => {
  await signIn(page);
  const campus = page.getByRole("row").filter({ hasText: "Quarrel Hill campus" });
  await campus.getByRole("link", { name: /^a break likely at 12 Hall lawn 3 since/ }).click();
  const said = page.getByRole("article", { name: /^a break likely at 12 Hall lawn 3/ });
  await expect(said.getByRole("cell", { name: /12 Hall lawn 3/ }).first()).toBeVisible();
  await expect(page.getByRole("complementary", { name: "One station over the nights" })).toContainText(
    "12 Hall lawn 3",
  );
  await expect(page.getByRole("img", { name: /mornings; on the last 2\d/ })).toBeVisible();
  await said.getByRole("button", { name: "Leave it, with a note" }).click();
  await page.getByLabel("Why").fill("the new spray heads");
  await page.getByRole("button", { name: "Leave it", exact: true }).click();
  await expect(said).toContainText("left as it is: “the new spray heads”");
  await page.goto("/");
  await expect(campus).toBeVisible();
  await expect(campus).not.toContainText("a break likely");
});

test("stations that no reading tells apart are parted by another order of the night, at no cost in minutes", async ({
  page,
}) => {
  test.setTimeout(90_000);
  await signIn(page);
  await page.getByRole("link", { name: "Quarrel Hill campus" }).click();
  await screen(page, "Night");
  await view(page, "Last night");
  const apart = page.getByRole("region", { name: "Never apart" });
  await expect(apart.getByRole("listitem").first()).toContainText(" and ");
  await apart.getByRole("button", { name: /^An order for .* that parts them$/ }).click();
  await expect(apart.getByRole("button", { name: "Stop, keep what is found" })).toBeVisible();
  await expect(
    apart.getByText(/^(All that run are parted|Parted but for .*), (at no cost in minutes|in a night)/),
  ).toBeVisible({ timeout: 45_000 });
  await expect(apart.getByText(/^Parted: ends/)).toBeVisible();
  await apart.getByRole("button", { name: "Take this order into the draft" }).click();
  await expect(page.getByText(/\d+ changes? not saved/)).toBeVisible();
  await page.getByRole("button", { name: "Discard all" }).click();
  await nothingUnsaved(page);
});
