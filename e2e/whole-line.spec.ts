import { expect, test } from "@playwright/test";
import { addPiece, fill, save, screen, signIn, view } from "./people.ts";

const STATIONS = [
  "No.\tName\tEmitter\tDesign",
  ...[
    "Gate lawn",
    "Terrace beds",
    "North verge",
    "Play lawn",
    "Avenue trees",
    "South lawn",
    "Bank shrubs",
    "Yard strip",
  ].map((name, i) => `${i + 1}\t${name}\tspray\t${[60, 45, 52, 70, 38, 64, 48, 41][i]}`),
].join("\n");

test("one site from nothing to a broken pipe that is found, shut off and cleared", async ({ page, context }) => {
  test.setTimeout(180_000);
  page.setDefaultTimeout(20_000);
  await context.grantPermissions(["clipboard-read", "clipboard-write"]);
  const name = `Walk site ${Date.now()}`;
  await signIn(page);
  await page.getByRole("button", { name: "New site" }).click();
  await page.getByLabel("Name of the site").fill(name);
  await page.getByLabel("Time zone").fill("America/Los_Angeles");
  await page.getByRole("button", { name: "Create and draw" }).click();
  await expect(page.getByRole("heading", { name, level: 1 })).toBeVisible();

  // Waterworks: source, connection with its chain, mainline, controller.
  const ledger = page.getByRole("complementary", { name: "Ledger" });
  await addPiece(page, "Source");
  await fill(page, "Sustained yield, L/min", "300");
  await fill(page, "Static pressure, kPa", "450");
  await addPiece(page, "Point of connection");
  await fill(page, "Off-schedule limit, L/min", "20");
  await ledger.getByRole("group", { name: "Add a piece" }).getByRole("button", { name: "Water meter" }).click();
  await fill(page, "Continuous rating, L/min", "2*100");
  await ledger.getByRole("group", { name: "Add a piece" }).getByRole("button", { name: "Master valve" }).click();
  await ledger.getByRole("group", { name: "Add a piece" }).getByRole("button", { name: "Flow sensor" }).click();
  await addPiece(page, "Mainline");
  await ledger.getByRole("group", { name: "Add a piece" }).getByRole("button", { name: "Pipe" }).click();
  await page.getByLabel("Nominal size").selectOption("2.5 in");
  await fill(page, "Length, m", "120");
  await addPiece(page, "Controller");
  await expect(ledger.getByRole("button", { name: /Main 1/ })).toContainText("278 L/min pipe velocity");
  await expect(ledger.getByRole("button", { name: /Connection 1/ })).toContainText(
    "200 L/min meter, continuous rating",
  );
  await save(page);

  await screen(page, "Sensors");
  await fill(page, "Inside diameter of its pipe, mm", "62.7");
  await fill(page, "Smallest flow, L/min", "15");
  await fill(page, "Test 1, Hz", "20");
  await fill(page, "Test 1, meter at start", "41200");
  await fill(page, "Test 1, meter at end", "41500");
  await fill(page, "Test 1, seconds", "180");
  await page.getByRole("button", { name: "Accept and save as a revision" }).click();
  await expect(page.getByLabel("K, US gal/min per Hz")).toHaveValue(/1\.3208/);
  await expect(page.getByLabel("Provings")).toContainText("by Maren Oddsdatter");

  await screen(page, "Stations");
  await page.evaluate((text) => navigator.clipboard.writeText(text), STATIONS);
  await page.getByRole("gridcell").first().click();
  await page.keyboard.press("Control+v");
  await expect(page.getByText("Pasted: 8 added, 0 changed")).toBeVisible();
  await page.locator('[data-station="8"][data-column="name"]').click();
  await page.keyboard.press("Enter");
  await page.keyboard.type("Yard strip, west");
  await page.keyboard.press("Enter");
  await expect(page.locator('[data-station="8"][data-column="name"]')).toHaveText("Yard strip, west");
  await save(page);

  await screen(page, "Programs");
  await page.getByRole("button", { name: "Program", exact: true }).click();
  await fill(page, "Minutes for all not yet in, min", "12");
  await page.getByRole("button", { name: "Add 8 stations" }).click();
  await page.getByRole("region", { name: /^How/ }).getByLabel("Stations at once").fill("3");
  await page.getByRole("region", { name: /^How/ }).getByLabel("Stations at once").blur();
  await expect(page.locator('[data-tell="ends"]')).toContainText("22:36");
  await save(page);

  await screen(page, "Learn");
  await page.getByLabel("Pace of the bench").selectOption("0");
  await page.getByRole("button", { name: "Learn 8 stations on the bench" }).click();
  await expect(page.getByRole("button", { name: "Take 8 learned flows" })).toBeEnabled({ timeout: 30_000 });
  await page.getByLabel("Take station 5").uncheck();
  await page.getByRole("button", { name: "Take 7 learned flows" }).click();
  await expect(page.getByRole("cell", { name: "taken" })).toHaveCount(7);

  await screen(page, "Night");
  await expect(page.getByRole("group", { name: /The night from 22:00/ })).toBeVisible();
  await page.getByRole("button", { name: /^1 Gate lawn/ }).focus();
  await page.keyboard.press("Enter");
  await expect(page.getByRole("region", { name: "Selected run" })).toContainText("opened as soon as its turn came");
  await page.getByRole("button", { name: "Table" }).click();
  await expect(page.getByRole("table", { name: "Runs of the night" }).getByRole("row")).toHaveCount(9);

  await screen(page, "Limits");
  await page.getByRole("slider", { name: "High limit of all stations" }).focus();
  for (let i = 0; i < 5; i++) await page.keyboard.press("ArrowRight");
  await expect(page.getByRole("slider", { name: "High limit of all stations" })).toHaveAttribute("aria-valuenow", "25");
  await page.getByRole("button", { name: "In the fullest set" }).click();
  await expect(page.getByText(/A broken outlet unseen at/)).toBeVisible();
  await save(page);

  await screen(page, "Bench");
  await page.getByRole("button", { name: "fault", exact: true }).click();
  await page.getByLabel("on", { exact: true }).selectOption({ label: "4 Play lawn" });
  await fill(page, "Size, L/min", "60");
  await page.getByRole("button", { name: "Run the night" }).click();
  await expect(page.getByLabel("Alarms").getByRole("listitem")).toHaveCount(1, { timeout: 30_000 });
  await expect(page.getByLabel("Alarms")).toContainText("High flow at station 4 Play lawn");
  await page.getByRole("button", { name: "Take this night into the log" }).click();
  await expect(page.getByText("locked out station 4 Play lawn")).toBeVisible();
  await expect(page.getByText("Locked out: 4 Play lawn")).toBeVisible();

  await screen(page, "Log");
  await view(page, /^Alarms/);
  const alarm = page.getByRole("article", { name: /Alarm station high/ });
  await alarm.getByRole("button", { name: "Acknowledge" }).click();
  await expect(alarm).toContainText("Acknowledged by Maren Oddsdatter");
  await alarm.getByLabel("Cause, as found").fill("lateral cut by a trencher");
  await alarm.getByRole("button", { name: "Clear and unlock" }).click();
  await expect(alarm).toContainText("Cleared by Maren Oddsdatter");
  await expect(page.getByText("Locked out: 4 Play lawn")).toBeHidden();
  await expect(alarm.getByRole("link", { name: /Learn it again/ })).toBeVisible();

  await page.reload();
  await expect(alarm).toContainText("lateral cut by a trencher");
  await view(page, "Revisions");
  await expect(page.getByRole("region", { name: "Revisions" }).getByRole("article")).toHaveCount(9);
});
