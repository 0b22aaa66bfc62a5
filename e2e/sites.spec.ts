import { expect, test } from "@playwright/test";
import { MANAGER, save, signIn, violations } from "./people.ts";

test("a site is begun from another, renamed, archived, brought back and deleted with its file kept", async ({
  page,
}) => {
  await signIn(page, MANAGER);
  await page.getByRole("button", { name: "New site" }).click();
  const dialog = page.getByRole("dialog", { name: "New site" });
  await dialog.getByLabel("Name of the site").fill("Thistle Court");
  await dialog.getByLabel("Begun from").selectOption({ label: "Sallow Court housing" });
  await dialog.getByRole("button", { name: "Create from this pattern" }).click();
  await expect(page).toHaveURL(/\/waterworks$/);
  const site = /sites\/([0-9a-f-]+)\//.exec(page.url())?.[1] as string;
  const { file } = (await (await page.request.get(`/api/sites/${site}/revisions`)).json()) as {
    file: { stations: { learned?: unknown }[]; programs: unknown[] };
  };
  expect(file.stations).toHaveLength(18);
  expect(file.programs.length).toBeGreaterThan(0);
  expect(file.stations.filter((s) => s.learned)).toEqual([]);

  await page.goto(`/sites/${site}/about`);
  await page.getByLabel("Name of the site").fill("Thistle Close");
  await page.getByLabel("Name of the site").press("Enter");
  await page.getByLabel("Time zone").fill("Europe/Lisbon");
  await expect(page.getByRole("status").filter({ hasText: "keep their clocks" })).toBeVisible();
  await page.getByRole("button", { name: "Take this zone" }).click();
  await save(page);
  expect(await violations(page)).toEqual([]);

  await page.getByRole("button", { name: "Archive this site" }).click();
  await expect(page.getByRole("button", { name: "Bring it back" })).toBeVisible();
  await page.goto("/?find=Thistle");
  await expect(page.getByText("No site matches.")).toBeVisible();
  await page.getByLabel("Show").selectOption("archived");
  await page.getByRole("link", { name: "Thistle Close" }).click();
  await page.goto(`/sites/${site}/about`);
  await page.getByRole("button", { name: "Bring it back" }).click();
  await page.getByRole("button", { name: "Delete Thistle Close…" }).click();
  await page.getByLabel("Its name, as it stands").fill("Thistle Close");
  await page.getByRole("button", { name: "Delete this site" }).click();
  await expect(page.getByRole("heading", { name: "Rounds" })).toBeVisible();
  expect((await page.request.get(`/api/sites/${site}/revisions`)).status()).toBe(404);
  await page.goto("/organisation?view=sites");
  const kept = page.getByRole("region", { name: "Deleted" }).getByRole("listitem").filter({ hasText: "Thistle Close" });
  const download = page.waitForEvent("download");
  await kept.getByRole("link", { name: "Its file" }).click();
  expect((await download).suggestedFilename()).toBe("Thistle_Close.presa.json");
});
