import { mkdtempSync, rmSync } from "node:fs";
import { tmpdir } from "node:os";
import { join } from "node:path";
import { expect, test } from "@playwright/test";
import type { SiteFile } from "../core/site-file/schema.ts";
import { parseSiteOrThrow } from "../core/site-file/parse-site.ts";
import { startGateway } from "../gateway/gateway.ts";
import { gatewayKey } from "../gateway/options.ts";
import { demoSites } from "../server/demo/sites.ts";
import { MANAGER, signIn, view } from "./people.ts";

test("a gateway is set, its readings come in, a fault dropped on it becomes an alarm on the screen and a lockout", async ({
  page,
}) => {
  test.setTimeout(120_000);
  await signIn(page, MANAGER);
  // A site of its own: what the controller locks out here must not be missing elsewhere.
  const meadow = demoSites().find((s) => s.site.id === "tidewell-meadow") as SiteFile;
  const file = { ...meadow, site: { ...meadow.site, id: `live-${Date.now()}`, name: "Meadow, live" } };
  const made = (await (
    await page.request.post("/api/sites", {
      data: JSON.stringify(file),
      headers: { "content-type": "application/json" },
    })
  ).json()) as { id: string };
  await page.goto(`/sites/${made.id}/bench`);
  await expect(page.getByRole("heading", { name: "Bench", level: 2 })).toBeVisible();
  const folder = mkdtempSync(join(tmpdir(), "presa-live-"));
  await view(page, "Live");
  const answer = page.waitForResponse((r) => r.url().endsWith("/field") && r.request().method() === "POST");
  await page.getByRole("button", { name: "Set up a gateway" }).click();
  const key = gatewayKey.parse(await (await answer).json());
  await expect(page.getByRole("dialog", { name: "What the gateway signs in with" })).toContainText(key.password);
  await page.getByRole("button", { name: "Close", exact: true }).click();
  await expect(page.getByText(key.password)).toHaveCount(0);
  await expect(page.getByLabel("Gateway's account")).toContainText(key.account);
  const gateway = await startGateway({
    site: parseSiteOrThrow(file),
    key,
    folder,
    pace: 60,
    from: Date.parse("2026-11-24T22:01:00-08:00") / 1000,
  });
  try {
    const state = page.getByLabel("Gateway", { exact: true });
    await expect(state).toContainText("live", { timeout: 20_000 });
    await expect(state).toContainText("expected", { timeout: 20_000 });
    await expect(page.getByRole("table", { name: "What the gateway said" })).toContainText("opens", {
      timeout: 20_000,
    });

    const alarms = await page.context().newPage();
    await alarms.goto("/alarms");
    const before = await alarms.getByRole("article").count();
    await page.getByRole("button", { name: "fault", exact: true }).click();
    await page.getByLabel("Fault", { exact: true }).selectOption("mainlineBreak");
    await page.getByLabel("Size").fill("900");
    await page.getByLabel("Size").press("Enter");
    await page.getByRole("button", { name: "Go on where it is, with these faults" }).click();
    await expect(page.getByText("The faults are on it.")).toBeVisible();
    await expect(page.getByRole("table", { name: "What the gateway said" })).toContainText("ALARM", {
      timeout: 60_000,
    });
    await expect.poll(() => alarms.getByRole("article").count(), { timeout: 20_000 }).toBeGreaterThan(before);
    await expect(page.getByText(/with mainline break on/)).toBeVisible();
  } finally {
    await gateway.stop();
    rmSync(folder, { recursive: true, force: true });
  }
  await expect(page.getByLabel("Gateway", { exact: true })).toContainText("silent", { timeout: 30_000 });
});
