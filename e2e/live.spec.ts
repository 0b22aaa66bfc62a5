import { mkdtempSync, rmSync } from "node:fs";
import { tmpdir } from "node:os";
import { join } from "node:path";
import { expect, test } from "@playwright/test";
import { parseSiteOrThrow } from "../core/site-file/parse-site.ts";
import { startGateway } from "../gateway/gateway.ts";
import { MANAGER, screen, signIn } from "./people.ts";

test("a gateway is set, its readings come in, a fault dropped on it becomes an alarm on the screen and a lockout", async ({ page }) => {
  test.setTimeout(120_000);
  await signIn(page, MANAGER);
  await page.getByRole("link", { name: /Tidewell Meadow/ }).first().click();
  await screen(page, "Bench");
  const siteId = /sites\/([0-9a-f-]{36})/.exec(page.url())?.[1];
  const file = await (await page.request.get(`/api/sites/${siteId}/file`)).text();
  const folder = mkdtempSync(join(tmpdir(), "presa-live-"));
  const gateway = await startGateway({ site: parseSiteOrThrow(JSON.parse(file)), folder, pace: 60, from: Date.parse("2026-11-24T22:01:00-08:00") / 1000 });
  try {
    await page.getByRole("button", { name: "Live" }).click();
    await page.getByLabel("Gateway, on this machine").fill("mqtt://elsewhere.example:1883");
    await page.getByRole("button", { name: "Listen there instead" }).click();
    await expect(page.getByRole("alert").filter({ hasText: "on this machine" })).toBeVisible();
    await page.getByLabel("Gateway, on this machine").fill(`mqtt://127.0.0.1:${gateway.port}`);
    await page.getByRole("button", { name: "Listen there instead" }).click();
    const state = page.getByLabel("Gateway", { exact: true });
    await expect(state).toContainText("● live", { timeout: 20_000 });
    await expect(state).toContainText("expected", { timeout: 20_000 });
    await expect(page.getByRole("table", { name: "What the gateway said" })).toContainText("opens", { timeout: 20_000 });

    const alarms = await page.context().newPage();
    await alarms.goto("/alarms");
    const before = await alarms.getByRole("article").count();
    await page.getByRole("button", { name: "+ fault" }).click();
    await page.getByLabel("Fault", { exact: true }).selectOption("mainlineBreak");
    await page.getByLabel("Size").fill("900");
    await page.getByLabel("Size").press("Enter");
    await page.getByRole("button", { name: "Go on where it is, with these faults" }).click();
    await expect(page.getByText("The faults are on it.")).toBeVisible();
    await expect(page.getByRole("table", { name: "What the gateway said" })).toContainText("ALARM", { timeout: 60_000 });
    await expect.poll(() => alarms.getByRole("article").count(), { timeout: 20_000 }).toBeGreaterThan(before);
    await expect(page.getByText(/with mainline break on/)).toBeVisible();
  } finally {
    await gateway.stop();
    rmSync(folder, { recursive: true, force: true });
  }
  await expect(page.getByLabel("Gateway", { exact: true })).toContainText("not reachable", { timeout: 30_000 });
});
