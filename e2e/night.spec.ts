import { expect, test } from "@playwright/test";
import { fill, save, screen, signIn } from "./people.ts";

test("120 stations pasted, two programs written, the night improved and the better settings taken", async ({ page, context }) => {
  test.setTimeout(120_000);
  await context.grantPermissions(["clipboard-read", "clipboard-write"]);
  await signIn(page);
  await page.getByRole("button", { name: "New site" }).click();
  await page.getByLabel("Name of the site").fill(`Night site ${Date.now()}`);
  await page.getByLabel("Time zone").fill("America/Los_Angeles");
  await page.getByRole("button", { name: /^Create and draw/ }).click();
  const ledger = page.getByRole("region", { name: "Ledger" });
  await page.getByRole("button", { name: "+ Source" }).click();
  await fill(page, "Static pressure, kPa", "600");
  await page.getByRole("button", { name: "+ Point of connection" }).click();
  await ledger.getByRole("button", { name: "+ Water meter" }).click();
  await fill(page, "Continuous rating, L/min", "900");
  await ledger.getByRole("button", { name: "+ Master valve" }).click();
  for (const size of ["4 in", "3 in"]) {
    await page.getByRole("button", { name: "+ Mainline" }).click();
    await ledger.getByRole("button", { name: "+ Pipe", exact: true }).click();
    await page.getByRole("combobox", { name: "Nominal size" }).selectOption(size);
  }
  for (let i = 0; i < 2; i++) await page.getByRole("button", { name: "+ Controller" }).click();
  await save(page);

  await screen(page, "Stations");
  const rows = ["No.\tName\tController\tMainline\tEmitter\tDesign", ...Array.from({ length: 120 }, (_, i) => `${i + 1}\tPlot ${i + 1}\tController ${i < 60 ? 1 : 2}\tMain ${i % 3 === 0 ? 2 : 1}\trotor\t${35 + ((i * 17) % 85)}`)];
  await page.evaluate((text) => navigator.clipboard.writeText(text), rows.join("\n"));
  await page.getByRole("gridcell").first().click();
  await page.keyboard.press("Control+v");
  await expect(page.getByText("Pasted: 120 added, 0 changed")).toBeVisible();
  await save(page);

  await screen(page, "Programs");
  for (const controller of ["Controller 1", "Controller 2"]) {
    await page.getByRole("button", { name: "+ Program" }).click();
    await page.getByRole("combobox", { name: "Controller", exact: true }).selectOption({ label: controller });
    await fill(page, "Minutes for all not yet in, min", controller === "Controller 1" ? "9" : "14");
    await page.getByRole("button", { name: "Add 60 stations" }).click();
    const atOnce = page.getByRole("region", { name: /When/ }).getByLabel("Stations at once");
    await atOnce.fill("4");
    await atOnce.blur();
  }
  await save(page);

  await screen(page, "Night");
  const ends = page.locator('[data-tell="ends"]');
  await expect(ends).toHaveText(/\d\d:\d\d/);
  await page.getByRole("button", { name: "Better night" }).click();
  const better = page.getByRole("region", { name: "A better night" });
  await better.getByRole("checkbox", { name: "priorities" }).uncheck();
  await better.getByRole("button", { name: "Search", exact: true }).click();
  await expect(better.getByRole("list", { name: "Settings to change" })).toBeVisible({ timeout: 15_000 });
  await expect(better.getByText(/priority/)).toHaveCount(0);
  await expect(better.getByRole("group", { name: /The night from/ })).toHaveCount(2);
  const words = await better.getByRole("status").textContent();
  const [, now, was] = /ends (\d\d:\d\d), was (\d\d:\d\d)/.exec(words ?? "") ?? [];
  expect(now).not.toBe(was);
  const first = better.getByRole("list", { name: "Settings to change" }).getByRole("checkbox").first();
  await first.uncheck();
  await expect(better.getByRole("button", { name: /^Take \d of \d settings/ })).toBeVisible();
  await first.check();
  await better.getByRole("button", { name: /^Take all of/ }).click();
  await expect(ends).toHaveText(now ?? "");
  await expect(page.getByLabel("Tell-line")).toContainText(`was ${was}`);
  await save(page);

  await page.getByRole("button", { name: "What if" }).click();
  const whatIf = page.getByRole("region", { name: "What if" });
  await whatIf.getByRole("slider").first().focus();
  for (let i = 0; i < 4; i++) await page.keyboard.press("ArrowRight");
  await expect(whatIf.getByRole("status")).toContainText(/Ends \d\d:\d\d \(now \d\d:\d\d\)/);
  await whatIf.getByLabel("out of service").selectOption({ label: "Source 1" });
  await expect(whatIf.getByRole("status")).toContainText("1,656 min unwatered");
});
