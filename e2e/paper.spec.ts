import { expect, test } from "@playwright/test";
import { pdfText } from "../testing/pdf-text.ts";
import { screen, signIn, view, VIEWER, violations } from "./people.ts";

test("the setup sheet on paper has every line of the one on the screen; each sheet is looked at before it is taken away", async ({
  page,
}) => {
  await signIn(page, VIEWER);
  await page.getByRole("link", { name: "Hollin Bank estate" }).click();
  await screen(page, "Programs");
  await view(page, "Setup sheet");
  const rows = page.getByRole("region", { name: "Setup sheet" }).locator("tbody tr");
  await expect(rows.first()).toBeVisible();
  const lines = await rows.evaluateAll((all) =>
    all.map((tr) => [...tr.children].map((td) => td.textContent?.trim() ?? "").filter((t) => t !== "")),
  );
  expect(lines.length).toBeGreaterThan(30);
  await screen(page, "Log");
  await view(page, "Paper");
  await page.getByRole("button", { name: "Look at the setup sheet" }).click();
  await expect(page.getByRole("img", { name: "Page 1 of the setup sheet" })).toBeVisible({ timeout: 90_000 });
  await expect(page.getByText(/^\d+ pages?$/)).toBeVisible({ timeout: 60_000 });
  expect(await violations(page)).toEqual([]);
  const waiting = page.waitForEvent("download");
  await page.getByRole("link", { name: "Download the setup sheet" }).click();
  const file = await waiting;
  expect(file.suggestedFilename()).toMatch(/^Hollin-Bank-estate-setup-sheet-\d{4}-\d\d-\d\d\.pdf$/);
  const path = page.url().replace(/log.*/, "").replace("/sites/", "/api/sites/");
  const pdf = await page.request.get(`${path}paper/setup?size=A4`);
  const said = (await pdfText(await pdf.body())).join("\n").split("\n");
  // Order, station, minutes and what it runs stand in one line there too.
  const stations = lines.filter((l) => l.length >= 6);
  expect(stations.length).toBeGreaterThan(30);
  for (const [order, number, name, minutes, runs] of stations)
    expect(
      said.some((l) => l.startsWith(`${order} ${number} ${name} ${minutes} ${runs}`)),
      `${number} ${name}`,
    ).toBe(true);
  for (const kind of ["walk", "emergency", "devices", "asBuilt", "water", "alarms"]) {
    const sheet = await page.request.get(`${path}paper/${kind}`);
    expect(sheet.status(), kind).toBe(200);
    expect((await pdfText(await sheet.body()))[0], kind).toContain("Hollin Bank estate");
  }
});
