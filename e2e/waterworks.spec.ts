import { readFileSync } from "node:fs";
import { expect, type Page, test } from "@playwright/test";
import { fill, nothingUnsaved, save, screen, signIn, view } from "./people.ts";

const drawing = (page: Page) => page.getByRole("group", { name: "Drawing of the waterworks" });
const ledger = (page: Page) => page.getByRole("complementary", { name: "Ledger" });

test.beforeEach(async ({ page }) => {
  await signIn(page);
});

test("the drawing: select both ways, drag, fold, place a piece, join and part, undo and redo, save as picture", async ({
  page,
}) => {
  test.setTimeout(90_000);
  await page.getByRole("link", { name: "Lakeside Park" }).click();
  await screen(page, "Waterworks");
  for (const name of ["West gate vault", "Cistern kiosk", "Middle main"])
    await expect(drawing(page).getByRole("button", { name: new RegExp(`^${name}, ceiling`) })).toBeVisible();
  await drawing(page)
    .getByRole("button", { name: /^Orchard well house, ceiling/ })
    .click({ position: { x: 30, y: 10 } });
  await expect(ledger(page).getByRole("button", { name: /^Orchard well house/ })).toHaveAttribute(
    "aria-expanded",
    "true",
  );
  await ledger(page)
    .getByRole("button", { name: /^Kiosk main/ })
    .click();
  await expect(drawing(page).getByRole("button", { name: /^Kiosk main, ceiling/ })).toHaveAttribute(
    "aria-pressed",
    "true",
  );

  const kiosk = drawing(page).locator('[data-id="lp-n8"]');
  const before = await kiosk.boundingBox();
  await page.mouse.move((before?.x ?? 0) + 160, (before?.y ?? 0) + 8);
  await page.mouse.down();
  await page.mouse.move((before?.x ?? 0) + 240, (before?.y ?? 0) - 20, { steps: 6 });
  await page.mouse.up();
  await expect(page.getByText("drawing: 1 piece moved")).toBeVisible();
  expect(((await kiosk.boundingBox())?.x ?? 0) - (before?.x ?? 0)).toBeGreaterThan(40);
  await page.getByRole("button", { name: "Undo, Ctrl+Z" }).click();
  await nothingUnsaved(page);
  expect(Math.abs(((await kiosk.boundingBox())?.x ?? 0) - (before?.x ?? 0))).toBeLessThan(3);
  await page.getByRole("button", { name: "Redo, Ctrl+Y" }).click();
  await expect(page.getByText("drawing: 1 piece moved")).toBeVisible();
  await page.getByRole("button", { name: "Arrange" }).click();
  await nothingUnsaved(page);

  const fold = drawing(page)
    .locator('[data-id="lp-n6"]')
    .getByRole("button", { name: /16 stations/ });
  await fold.click();
  await expect(fold).toHaveAttribute("aria-expanded", "true");
  await expect(drawing(page).getByRole("button", { name: /^Station 115 / })).toBeVisible();
  await fold.click();
  await expect(drawing(page).getByRole("button", { name: /^Station 115 / })).toBeHidden();

  const house = drawing(page).locator('[data-id="lp-p8"]');
  await page.getByRole("button", { name: "Place Pressure sensor" }).dragTo(house, { targetPosition: { x: 4, y: 30 } });
  await expect(ledger(page).getByRole("button", { name: "Pressure sensor", exact: true })).toBeVisible();
  await expect(
    page
      .getByText("Pressure sensor added")
      .or(page.getByText(/device .* added/))
      .first(),
  ).toBeVisible();
  await page.keyboard.press("Control+z");

  await ledger(page)
    .getByRole("button", { name: /^Terrace main/ })
    .click();
  await ledger(page).getByRole("checkbox", { name: "Cistern kiosk" }).check();
  await expect(page.getByLabel("Tell-line")).toContainText(/was 0 errors/);
  await page.getByRole("link", { name: /errors?, \d+ warnings?/ }).click();
  await expect(
    page.getByRole("region", { name: "The site" }).getByText("drinking water and other water can meet in this main"),
  ).toBeVisible();
  await screen(page, "Waterworks");
  await page.getByRole("button", { name: "Discard all" }).click();

  for (const kind of ["SVG", "PNG"]) {
    const saved = page.waitForEvent("download");
    await page.getByRole("button", { name: kind, exact: true }).click();
    const file = readFileSync(await (await saved).path());
    if (kind === "SVG") {
      const text = file.toString("utf8");
      for (const part of ["West gate vault", "Middle main", "@font-face"]) expect(text).toContain(part);
      expect(text).not.toMatch(/var\(--|color-mix/);
    } else {
      expect(file.subarray(1, 4).toString()).toBe("PNG");
      expect(file.readUInt32BE(16)).toBeGreaterThan(1200);
    }
  }
});

test("devices and wires: an address used twice is refused, readings say what they mean and who took them", async ({
  page,
}) => {
  await page.getByRole("link", { name: "Lakeside Park" }).click();
  await screen(page, "Waterworks");
  await view(page, "Devices and wires");
  const row = (name: string) =>
    page.locator("[data-wired]").filter({ has: page.getByRole("button", { name, exact: true }) });
  await row("2 Kite lawn 1").getByRole("button", { name: "2 Kite lawn 1", exact: true }).click();
  await fill(page, "Terminal", "01");
  await expect(page.getByRole("alert").filter({ hasText: "Address 01 is 1 Long meadow 1's already" })).toBeVisible();
  await expect(row("2 Kite lawn 1")).not.toContainText("01");
  await page.getByRole("button", { name: "Dismiss" }).click();

  await fill(page, "Reading, Ω", "3");
  await page.getByRole("button", { name: "Note it" }).click();
  await expect(row("2 Kite lawn 1")).toContainText("3 Ω, short");
  await page.getByText("What a resistance means").click();
  await fill(page, "24 V AC: a short under, Ω", "2");
  await expect(row("2 Kite lawn 1")).toContainText("3 Ω, good");
  await save(page);
  await expect(page.getByRole("row", { name: /^\d+ \w+ \d{4} Maren Oddsdatter at the controller/ })).toBeVisible();

  const tray = page.getByRole("list", { name: "Serial numbers in the tray" });
  await tray.getByRole("button", { name: "K20999", exact: true }).dragTo(row("3 Path verge 1"));
  await expect(row("3 Path verge 1")).toContainText("K20999");
  await expect(tray.getByRole("button", { name: "K20999", exact: true })).toHaveCount(0);
  await page.getByRole("button", { name: "Discard all" }).click();
  await expect(tray.getByRole("button", { name: "K20999", exact: true })).toHaveCount(1);
});

test("exchange: out as an EPANET file and in again; what does not fit is listed before anything changes", async ({
  page,
}) => {
  await page.getByRole("link", { name: "Marrow Field sports ground" }).click();
  await screen(page, "Waterworks");
  await view(page, "Exchange");
  const saved = page.waitForEvent("download");
  await page.getByRole("button", { name: "Save marrow-field.inp" }).click();
  const text = readFileSync(await (await saved).path(), "utf8");
  expect(text).toContain("[PIPES]");
  const take = async (content: string): Promise<void> =>
    page
      .getByLabel("EPANET input file")
      .setInputFiles({ name: "net.inp", mimeType: "text/plain", buffer: Buffer.from(content) });
  await take(text);
  const found = page.getByRole("region", { name: "What the file holds" });
  await expect(found).toContainText("0 added");
  await expect(found).toContainText("Everything in it fits.");
  await take("hello");
  await expect(page.getByRole("alert").filter({ hasText: "holds no network" })).toBeVisible();
  await take(
    "[JUNCTIONS]\n J1 5 0\n J2 5 60\n[RESERVOIRS]\n R 55\n[PIPES]\n P1 R J1 40 100 150\n P2 J1 J2 90 80 150\n[RULES]\n RULE 1\n[OPTIONS]\n UNITS LPM\n[END]\n",
  );
  await expect(found).toContainText("RULE 1 has no place in Presa");
  await found.getByRole("button", { name: "Take it into the draft" }).click();
  const all = page.getByRole("button", { name: /^Show all/ });
  if (await all.isVisible()) await all.click();
  await expect(page.getByText(/^station \d+ Station J2 added$/)).toBeVisible();
  await page.getByRole("button", { name: "Discard all" }).click();
});

test("sensors: the sheet's unit, insertion in a true bore, a proof that is refused and one that is kept, checks with who and when", async ({
  page,
}) => {
  await page.getByRole("link", { name: "Tidewell Meadow park" }).click();
  await screen(page, "Sensors");
  const sheet = page.getByRole("region", { name: /at Return main vault/ });
  await sheet.getByLabel("The sheet gives K for").selectOption("lpm");
  await expect(sheet.getByLabel("K, L/min per Hz")).toHaveValue(/^11\.3/);
  await expect(sheet.getByLabel("Flow at that frequency")).toHaveText(/229\.4 L\/min/);
  await sheet.getByLabel("Kind").selectOption("insertion");
  await sheet.getByLabel("Nominal size").selectOption("4 in");
  await expect(sheet).toContainText("every flow would read -1.3 % wrong");
  await page.getByRole("button", { name: "Discard all" }).click();

  await fill(page, "Test 1, meter at start", "1000");
  await fill(page, "Test 1, meter at end", "990");
  await fill(page, "Test 1, seconds", "120");
  await fill(page, "Test 1, Hz", "20");
  await expect(sheet.getByRole("alert")).toContainText("the meter's end must be above its start");
  await fill(page, "Test 1, meter at end", "9000");
  await expect(sheet.getByRole("alert")).toContainText("wrong sheet or a wrong bore");
  await fill(page, "Test 1, meter at end", "1480");
  await sheet.getByRole("button", { name: "test", exact: true }).click();
  await fill(page, "Test 2, meter at start", "1480");
  await fill(page, "Test 2, meter at end", "2440");
  await fill(page, "Test 2, seconds", "120");
  await fill(page, "Test 2, Hz", "40");
  await expect(sheet.getByRole("img", { name: /^Residuals/ })).toBeVisible();
  await sheet.getByRole("button", { name: "Accept and save as a revision" }).click();
  await expect(sheet.getByLabel("Provings")).toContainText("by Maren Oddsdatter: 2 tests from 240 L/min to 480 L/min");
  await nothingUnsaved(page);

  const polarity = sheet.locator('[data-check="polarity"]');
  await polarity.getByRole("textbox").fill("red on +, box 2");
  await polarity.getByRole("button", { name: /^In order/ }).click();
  await sheet
    .locator('[data-check="drain"]')
    .getByRole("button", { name: /^Not in order/ })
    .click();
  await expect(sheet).toContainText(/2 of 7 looked at,\s+1 not in order/);
  await save(page);
  await page.reload();
  await expect(polarity).toContainText("in order");
  await expect(polarity).toContainText("Maren Oddsdatter");
  await expect(polarity).toContainText("red on +, box 2");
  await screen(page, "Log");
  await view(page, "Revisions");
  await expect(page.getByRole("region", { name: "Revisions" })).toContainText("proved against the meter");
});

test("a device kept in the library is taken on another site; the library goes out and in as CSV", async ({ page }) => {
  await page.getByRole("link", { name: "Hollin Bank estate" }).click();
  await screen(page, "Waterworks");
  await drawing(page)
    .getByRole("button", { name: /^Water meter/ })
    .click();
  const name = `Vault meter ${Date.now()}`;
  await ledger(page).getByLabel("Name").first().fill(name);
  await ledger(page).getByLabel("Name").first().blur();
  await page.getByRole("button", { name: "Keep in library" }).click();
  await expect(page.getByText(`Kept as "${name}"`)).toBeVisible();
  await page.getByRole("button", { name: "Discard all" }).click();
  await page.goto("/");
  await page.getByRole("link", { name: "Sallow Court housing" }).click();
  await screen(page, "Waterworks");
  await drawing(page)
    .getByRole("button", { name: /^Water meter/ })
    .click();
  await page.getByLabel("Take its data sheet from the library").selectOption({ label: name });
  await expect(page.getByText(`Taken from ${name}`)).toBeVisible();
  await expect(page.getByRole("region", { name: "Unsaved changes" })).toContainText("continuous max");
  await page.getByLabel("Take its data sheet from the library").selectOption({ label: "Water meter 2 in" });
  await expect(page.getByText("typical, check the data sheet.")).toBeVisible();
  await page.getByRole("button", { name: "Discard all" }).click();

  await page.goto("/library");
  await expect(page.getByRole("cell", { name, exact: true })).toBeVisible();
  const out = page.waitForEvent("download");
  await page.getByRole("link", { name: "Export as CSV" }).click();
  const csv = readFileSync(await (await out).path(), "utf8");
  expect(csv).toContain(name);
  await page.getByLabel(/Import CSV/).setInputFiles({
    name: "devices.csv",
    mimeType: "text/csv",
    buffer: Buffer.from(`name,kind,setKpa\nBench regulator ${Date.now()},regulator,280\nBroken,regulator,many\n`),
  });
  await expect(page.getByRole("status")).toContainText("1 device kept, 1 row refused:");
  await expect(page.getByRole("status")).toContainText('line 3: setKpa: "many" is not a number.');
  await page.getByRole("button", { name: `Take ${name} out of the library` }).click();
  await expect(page.getByRole("cell", { name, exact: true })).toBeHidden();
});

test("the pipe chart answers both ways: a flow gives the size, a size and a velocity give the flow", async ({
  page,
}) => {
  await page.getByRole("link", { name: "Larkspur Clinic garden" }).click();
  await screen(page, "Waterworks");
  await view(page, "Pipe chart");
  const chart = page.getByRole("region", { name: "Pipe sizes and friction" });
  await fill(page, "Flow, gal/min", "40");
  await expect(chart).toContainText("Take 2 in");
  await fill(page, "Largest velocity, ft/s", "3");
  await expect(chart).toContainText("Take 2.5 in");
  await expect(chart.getByRole("row", { name: /^2 in/ })).toContainText("too fast");
});
