import { mkdtempSync, rmSync } from "node:fs";
import { tmpdir } from "node:os";
import { join } from "node:path";
import { expect, type Page, test } from "@playwright/test";
import { INVENTED } from "../core/profiles/profile.ts";
import type { Program, SiteFile } from "../core/site-file/schema.ts";
import { type Gateway, startGateway } from "../gateway/gateway.ts";
import { gatewayKey, type GatewayKey } from "../gateway/options.ts";
import { smallSite } from "../testing/small-site.ts";
import { fill, MANAGER, save, screen, signIn, view, violations } from "./people.ts";

const STATIONS = 12;
/** Twelve stations on one controller, none of them scheduled now. */
function parkSite(): SiteFile {
  return smallSite((s) => {
    s.site.id = `e2e-there-${Date.now()}`;
    s.site.name = `Park there ${Date.now() % 100_000}`;
    s.stations = Array.from({ length: STATIONS }, (_, i) => ({
      ...(s.stations[0] as SiteFile["stations"][number]),
      id: `s${i + 1}`,
      number: i + 1,
      name: `Bed ${i + 1}`,
      designFlowLpm: 60 + 5 * i,
    }));
    Object.assign(s.programs[0] as object, {
      name: "Beds",
      starts: ["23:30"],
      days: { type: "weekdays", days: ["wed"] },
    });
    (s.programs[0] as Program).runs = s.stations.map((x) => ({ stationId: x.id, minutes: 6 }));
    Object.assign(s.policy, { persistenceS: 30 });
    for (const m of s.mainlines) Object.assign(m, { holdOffS: 20, fillS: 10 });
  });
}

type There = { file: SiteFile; id: string; key: GatewayKey; folder: string; gateway: Gateway };
/** The site with its gateway set up on screen, and simulated controllers that speak through the real broker. */
async function siteThere(page: Page, pace: number, before = async (): Promise<void> => {}): Promise<There> {
  await signIn(page, MANAGER);
  await before();
  const file = parkSite();
  const made = await page.request.post("/api/sites", {
    data: JSON.stringify(file),
    headers: { "content-type": "application/json" },
  });
  const { id } = (await made.json()) as { id: string };
  await page.goto(`/sites/${id}/controllers`);
  await expect(page.getByText(/No gateway of this site has been heard/)).toBeVisible();
  await page.getByRole("button", { name: "Set up a gateway" }).click();
  await expect(page.getByRole("tab", { name: "Live" })).toHaveAttribute("aria-selected", "true");
  await expect(page.getByText(/No gateway reads this site/)).toBeVisible();
  const answer = page.waitForResponse((r) => r.url().endsWith("/field") && r.request().method() === "POST");
  await page.getByRole("button", { name: "Set up a gateway" }).click();
  const key = gatewayKey.parse(await (await answer).json());
  await page.getByRole("button", { name: "Close", exact: true }).click();
  const folder = mkdtempSync(join(tmpdir(), "presa-walk-"));
  // An hour back, so that there is time to go faster than the clock.
  const from = Math.floor(Date.now() / 1000) - 3 * 3600;
  const gateway = await startGateway({ site: file, key, folder, pace, from });
  await view(page, /^Send and read back/);
  await expect(page.getByText(/The gateway is heard/)).toBeVisible({ timeout: 20_000 });
  await expect(page.getByText("holds what Presa holds")).toBeVisible({ timeout: 20_000 });
  return { file, id, key, folder, gateway };
}
const end = async ({ gateway, folder }: There): Promise<void> => {
  await gateway.stop().catch(() => {});
  rmSync(folder, { recursive: true, force: true });
};

/** The hour of the nightly read-back, on each site's own clock. */
async function readBackAt(page: Page, hour: string): Promise<void> {
  await page.goto("/controllers");
  const kept = page.waitForResponse((r) => r.url().endsWith("/api/controllers") && r.request().method() === "PATCH");
  await fill(page, "Read back nightly", hour);
  expect((await kept).ok()).toBe(true);
}

test("a run time is changed, sent, refused in part by what the controller can do, and read back; what is changed there is found and taken", async ({
  page,
}) => {
  test.setTimeout(300_000);
  // Not before the walk asks for it.
  const there = await siteThere(page, 1, () => readBackAt(page, "23:59"));
  try {
    // What hangs there takes whole minutes only, which nobody knows.
    const coarse = { ...(INVENTED[1] as (typeof INVENTED)[number]), minuteStep: 1 };
    there.gateway.site.setByHand("ctl", (h) => ({ ...h, profile: coarse }));
    await screen(page, "Programs");
    await fill(page, /^Minutes of station 1(,|$)/, "7.4");
    await save(page);
    await screen(page, "Controllers");
    const differences = page.getByRole("table", { name: "Differences at Controller" });
    await expect(differences.getByRole("row", { name: /program Beds: 1 Bed 1/ })).toContainText("7.4 min");
    await page.getByRole("button", { name: "Send…" }).click();
    const dialog = page.getByRole("dialog", { name: "Send to the controllers" });
    await expect(dialog).toContainText("1 item change there");
    await dialog.getByRole("button", { name: "Send to 1 controller" }).click();
    await expect(page.getByText(/last send .* taken in part/)).toBeVisible({ timeout: 20_000 });
    await expect(differences.getByRole("row", { name: /1 Bed 1/ })).toContainText("not taken by the controller");
    await view(page, "History");
    await expect(page.getByRole("table", { name: "Settings sent" })).toContainText(/1 Bed 1: changed, it holds 7 min/);
    // It is taken over as it stands there: then both ends hold the same.
    await view(page, /^Send and read back/);
    await differences.getByLabel(/1 Bed 1/).check();
    await page.getByRole("button", { name: "Take the controller's" }).click();
    await expect(page.getByText("holds what Presa holds")).toBeVisible();

    // Somebody sets it otherwise while the gateway is cut off, and nobody is told: the nightly read-back finds it.
    there.gateway.site.setSilent(true);
    there.gateway.site.setByHand("ctl", (h) => ({
      ...h,
      settings: { ...h.settings, programs: h.settings.programs.map((p) => ({ ...p, starts: ["21:15"] })) },
    }));
    there.gateway.site.setSilent(false);
    await readBackAt(page, "00:00");
    await page.goto(`/sites/${there.id}/controllers`);
    await expect(differences.getByRole("row", { name: /program Beds: starts/ })).toContainText("21:15", {
      timeout: 100_000,
    });
    await expect(page.getByText(/someone set it at the controller/)).toBeVisible();
    await page.goto("/controllers");
    await expect(page.getByRole("row", { name: new RegExp(there.file.site.name) })).toContainText(
      "someone changed 1 setting at the controller",
    );
    expect(await violations(page, { tags: ["wcag2a", "wcag2aa"] })).toEqual([]);
    await page.goto("/");
    await expect(page.getByRole("row", { name: new RegExp(there.file.site.name) })).toContainText(
      "someone changed 1 setting at the controller",
    );
    await page.goto(`/sites/${there.id}/controllers`);
    await differences.getByLabel(/starts/).check();
    await page.getByRole("button", { name: "Take the controller's" }).click();
    await expect(page.getByText("holds what Presa holds")).toBeVisible();
    expect(await violations(page, { tags: ["wcag2a", "wcag2aa"] })).toEqual([]);
  } finally {
    await readBackAt(page, "05:00").catch(() => {});
    await end(there);
  }
});

test("stations are run, skipped and stopped from a phone; off and resumed; a main breaks live, is isolated, and cleared at both ends", async ({
  page,
}) => {
  test.setTimeout(180_000);
  const there = await siteThere(page, 20);
  try {
    await view(page, "Run now");
    await page.setViewportSize({ width: 390, height: 844 });
    const now = page.getByRole("region", { name: "Now" });
    await fill(page, "for, min", "20");
    await page.getByRole("button", { name: "Run it" }).click();
    await expect(now).toContainText("1 Bed 1", { timeout: 20_000 });
    await expect(now).toContainText("of 60 L/min expected");
    expect(await page.evaluate(() => document.documentElement.scrollWidth)).toBeLessThanOrEqual(390);
    await page.getByRole("button", { name: "Begin it" }).click();
    await expect(now).toContainText("2 Bed 2", { timeout: 20_000 });
    await page.getByRole("button", { name: "Skip to the next" }).click();
    await expect(now).toContainText("3 Bed 3", { timeout: 20_000 });
    await page.getByRole("button", { name: "Stop everything" }).click();
    await expect(now).toContainText("Nothing is open", { timeout: 20_000 });
    await page.setViewportSize({ width: 1280, height: 800 });
    await page.getByRole("button", { name: "Off until then" }).click();
    await expect(page.getByText(/Off until .* to go/)).toBeVisible({ timeout: 20_000 });
    await page.getByRole("button", { name: "Resume now" }).click();
    await expect(page.getByText(/Off until .* to go/)).toHaveCount(0, { timeout: 20_000 });
    expect(await violations(page, { tags: ["wcag2a", "wcag2aa"] })).toEqual([]);

    // The main breaks while a station runs.
    const played = await page.request.post(`/api/sites/${there.id}/field/play`, {
      data: { faults: [{ at: "+0", kind: "mainlineBreak", subjectId: "main", size: 400 }] },
      headers: { "content-type": "application/json" },
    });
    expect(played.status()).toBeLessThan(300);
    await page.getByRole("button", { name: "Run it" }).click();
    await expect(page.getByText(/Locked out/).first()).toBeVisible({ timeout: 60_000 });
    expect(there.gateway.site.held.lockouts.length).toBeGreaterThan(0);
    await page.goto(`/sites/${there.id}/log?view=alarms`);
    const alarm = page
      .getByRole("article")
      .filter({ hasText: /mainline/i })
      .first();
    await expect(alarm).toBeVisible({ timeout: 20_000 });
    await alarm.getByLabel(/Cause|What was found/).fill("a pipe broken by a digger");
    await alarm.getByRole("button", { name: /^Clear/ }).click();
    await expect.poll(() => there.gateway.site.held.lockouts.length, { timeout: 20_000 }).toBe(0);
  } finally {
    await end(there);
  }
});

test("twelve stations are learned at a set hour with nobody there and the gateway restarted in the middle; the figures are taken", async ({
  page,
  context,
}) => {
  test.setTimeout(240_000);
  const there = await siteThere(page, 60);
  let again: Gateway | null = null;
  try {
    await screen(page, "Learn");
    await page.getByRole("button", { name: "At the controllers" }).click();
    await page.getByLabel("at a set hour").check();
    // The site is played from three hours ago: an hour that comes soon there.
    const at = new Date(there.gateway.site.held.now * 1000 + 12 * 60_000);
    const local = at.toLocaleString("sv-SE", { timeZone: "Europe/Vienna" });
    await page.getByLabel("From", { exact: true }).fill(local.slice(11, 16));
    await page.getByLabel("From", { exact: true }).blur();
    await page.getByLabel("Date", { exact: true }).first().fill(local.slice(0, 10));
    await page.getByLabel("Date", { exact: true }).first().blur();
    await page.getByRole("button", { name: /Learn 12 stations there, at/ }).click();
    await expect(page.getByText(/Waits/)).toBeVisible({ timeout: 20_000 });
    await page.goto("about:blank");
    await expect.poll(async () => there.gateway.site.held.learns, { timeout: 60_000 }).toBeTruthy();
    await there.gateway.stop();
    again = await startGateway({ site: there.file, key: there.key, folder: there.folder, pace: 60 });
    const back = await context.newPage();
    await expect
      .poll(
        async () => {
          const seen = await back.request.get(`/api/sites/${there.id}/learning`);
          return ((await seen.json()) as { run: { state: string } | null }).run?.state;
        },
        { timeout: 120_000 },
      )
      .toBe("done");
    await back.goto(`/sites/${there.id}/learn?view=ledger`);
    await expect(back.getByText(/Last run at the controllers: 12 of 12 stations/)).toBeVisible();
    await back.getByRole("button", { name: "Take 12 learned flows" }).click();
    await expect(back.getByRole("cell", { name: "taken" })).toHaveCount(12);
  } finally {
    await again?.stop().catch(() => {});
    await end(there);
  }
});
