import { expect, test } from "@playwright/test";
import { signIn, violations } from "./people.ts";

test("rain: all sites of a client are off for three days but one, and on again as one", async ({ page }) => {
  await signIn(page);
  await page.getByRole("navigation", { name: "Pages" }).getByRole("link", { name: "Many sites" }).click();
  await page.getByLabel("Find sites").fill("tarrow county");
  await page.getByRole("button", { name: "Tick those found" }).click();
  await page.getByLabel("Change Tidewell Meadow park").uncheck();
  expect(await violations(page)).toEqual([]);
  await page.getByRole("button", { name: "See what it does to 2 sites" }).click();
  const table = page.getByRole("table", { name: "Sites to change" });
  await expect(table.getByRole("row", { name: /Lakeside Park/ })).toContainText("no runs");
  expect(await violations(page)).toEqual([]);
  await page.getByRole("button", { name: "Change 2 sites: off for 3 days" }).click();
  await expect(page.getByText("2 sites changed.")).toBeVisible();

  await page.getByRole("navigation", { name: "Pages" }).getByRole("link", { name: "Rounds" }).click();
  await page.getByLabel("Of", { exact: true }).selectOption("Tarrow County");
  const rounds = page.getByRole("table", { name: "Sites" });
  await expect(rounds.getByRole("row", { name: /Lakeside Park/ })).toContainText("off until");
  await expect(rounds.getByRole("row", { name: /Marrow Field/ })).toContainText("off until");
  await expect(rounds.getByRole("row", { name: /Tidewell Meadow/ })).not.toContainText("off until");
  await expect(rounds.getByRole("row", { name: /Hollin Bank/ })).toHaveCount(0);

  await page.getByRole("navigation", { name: "Pages" }).getByRole("link", { name: "Many sites" }).click();
  await page.getByRole("button", { name: "Take back: off for 3 days" }).first().click();
  await expect(page.getByText("2 sites taken back.")).toBeVisible();
  await page.getByRole("navigation", { name: "Pages" }).getByRole("link", { name: "Rounds" }).click();
  await expect(rounds.getByRole("row", { name: /Lakeside Park/ })).not.toContainText("off until");
  await expect(rounds.getByRole("row", { name: /Marrow Field/ })).not.toContainText("off until");
});
