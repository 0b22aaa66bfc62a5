import { readFileSync } from "node:fs";
import { expect, test } from "@playwright/test";
import { fill, nothingUnsaved, screen, signIn } from "./people.ts";

test("the grid: paste with a preview, several rows at once, sort, find, aids, CSV out and in", async ({
  page,
  context,
}) => {
  await context.grantPermissions(["clipboard-read", "clipboard-write"]);
  await signIn(page);
  await page.getByRole("link", { name: "Lakeside Park" }).click();
  await screen(page, "Stations");
  const cell = (station: number, column: string) =>
    page.locator(`[data-station="${station}"][data-column="${column}"]`);
  await page.evaluate(
    (text) => navigator.clipboard.writeText(text),
    "No.\tName\tFlow\tBlock\n1\tGate meadow\t99\tA\n2\tOther\tmany\tB",
  );
  await cell(1, "number").click();
  await page.keyboard.press("Control+v");
  const preview = page.getByRole("region", { name: "Before pasting" });
  await expect(preview).toContainText("3 cells of 2 stations would change, 1 cell refused");
  await expect(preview).toContainText("no column for Block");
  await expect(cell(1, "name")).toHaveText("Long meadow 1");
  await preview.getByRole("button", { name: "Take what is right" }).click();
  await expect(cell(1, "name")).toHaveText("Gate meadow");
  await expect(cell(2, "designFlowLpm")).toHaveText("99.0");
  await page.getByRole("button", { name: "Discard all" }).click();

  await cell(3, "requiredKpa").click();
  for (let i = 0; i < 3; i++) await page.keyboard.press("Shift+ArrowDown");
  await page.keyboard.type("275");
  await page.keyboard.press("Enter");
  for (const n of [3, 4, 5, 6]) await expect(cell(n, "requiredKpa")).toHaveText("275");
  await page.keyboard.press("Control+z");
  await expect(cell(4, "requiredKpa")).toHaveText("310");

  await page.getByRole("button", { name: /^Design/ }).click();
  await page.getByRole("button", { name: /^Design/ }).click();
  const first = page.locator("[data-cell='0-0']");
  await expect(first).not.toHaveText("1");
  await page.getByRole("button", { name: "File order" }).click();
  await page.getByLabel("Find").fill("rotor shore");
  await expect(page.getByRole("grid")).toHaveAttribute("aria-rowcount", "17");
  await page.getByLabel("Find").fill("");

  // Rows out of view are not drawn, and a key brings them.
  expect(await page.getByRole("row").count()).toBeLessThan(70);
  await first.click();
  for (let i = 0; i < 149; i++) await page.keyboard.press("ArrowDown");
  await expect(cell(150, "number")).toBeFocused();

  await page.getByRole("button", { name: "Aids" }).click();
  const aids = page.getByRole("complementary", { name: "Aids for the chosen station" });
  await fill(page, "Outlets", "24");
  await fill(page, /^Flow of one/, "2.5");
  await fill(page, "Area, m²", "100");
  await expect(cell(150, "emitters")).toHaveText("24 × 2.5");
  await expect(cell(150, "designFlowLpm")).toHaveText("60.0");
  await aids.getByLabel("Soil").selectOption("clay");
  await aids.getByRole("button", { name: "Take cycle and soak" }).click();
  await expect(cell(150, "cycle")).toHaveText(/max \d+ min/);
  await page.getByRole("button", { name: "Discard all" }).click();

  const saved = page.waitForEvent("download");
  await page.getByRole("button", { name: "Save CSV" }).click();
  const csv = readFileSync(await (await saved).path(), "utf8");
  expect(csv.split("\n")).toHaveLength(152);
  await page.getByLabel("Stations as CSV").setInputFiles({
    name: "stations.csv",
    mimeType: "text/csv",
    buffer: Buffer.from(csv.replace("Kite lawn 1", "Kite lawn one")),
  });
  await expect(preview).toContainText("1 cell of 1 station would change");
  await preview.getByRole("button", { name: "Leave everything as it is" }).click();
  await nothingUnsaved(page);
});
