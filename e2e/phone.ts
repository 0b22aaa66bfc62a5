import { mkdtempSync } from "node:fs";
import { tmpdir } from "node:os";
import { join } from "node:path";
import { type APIRequestContext, type BrowserContext, chromium, expect, type Page, test } from "@playwright/test";
import type { Along } from "../contracts/along.ts";
import { DEMO_PASSWORD } from "../server/demo/people.ts";
import { smallSite } from "../testing/small-site.ts";

export const TECHNICIAN = "tolly@presa.example";

/** A phone with what it keeps: closed and opened again it has it still. */
export const aPocket = (): string => mkdtempSync(join(tmpdir(), "presa-phone-"));

/** Takes the phone out of the pocket: a browser of 390 × 844 under a thumb. @param offline without a connection from the first moment on */
export async function phone(pocket: string, offline = false): Promise<{ context: BrowserContext; page: Page }> {
  const { baseURL, launchOptions, timezoneId } = test.info().project.use;
  const context = await chromium.launchPersistentContext(pocket, {
    ...launchOptions,
    ...(baseURL ? { baseURL } : {}),
    ...(timezoneId ? { timezoneId } : {}),
    viewport: { width: 390, height: 844 },
    deviceScaleFactor: 2,
    hasTouch: true,
    isMobile: true,
    offline,
  });
  context.setDefaultTimeout(45_000);
  return { context, page: context.pages()[0] ?? (await context.newPage()) };
}

/** Signs in on the phone, and waits until its pages are kept there. */
export async function signInThere(page: Page, email = TECHNICIAN): Promise<void> {
  await page.goto("/sign-in?to=/field");
  await page.getByLabel("E-mail").fill(email);
  await page.getByLabel("Password").fill(DEMO_PASSWORD);
  await page.getByRole("button", { name: "Sign in" }).tap();
  await expect(page.getByRole("heading", { name: "Sites", exact: true })).toBeVisible();
  await page.evaluate(async () => {
    await navigator.serviceWorker.ready;
  });
}

/** A site of its own for a test, with so many stations; the answer is its id. */
export async function aSite(office: APIRequestContext, name: string, stations = 3): Promise<string> {
  const file = smallSite((s) => {
    s.site.id = `phone-${Date.now()}-${Math.floor(Math.random() * 1e6)}`;
    s.site.name = name;
    s.site.timeZone = "America/Los_Angeles";
    s.stations = Array.from({ length: stations }, (_, i) => ({
      id: `s${i + 1}`,
      number: i + 1,
      name: `Bed ${i + 1}`,
      controllerId: "ctl",
      mainlineId: "main",
      designFlowLpm: 100,
    }));
  });
  const made = await office.post("/api/sites", { data: JSON.stringify(file) });
  expect(made.status()).toBe(200);
  return ((await made.json()) as { id: string }).id;
}

/** Takes a site along. */
export async function takeAlong(page: Page, name: string): Promise<void> {
  await page.getByLabel("Find a site").fill(name);
  // The list moves under the thumb while it is found.
  await expect(page.getByRole("listitem")).toHaveCount(1);
  await page.getByRole("switch", { name: `Take along: ${name}` }).tap();
  await expect(page.getByText(/on this phone as of/).first()).toBeVisible();
}

export const job = (page: Page, name: string) =>
  page.getByRole("navigation", { name: "Jobs in the field" }).getByRole("button", { name: new RegExp(`^${name}`) });

/** What the office knows of a site. */
export async function known(office: APIRequestContext, siteId: string): Promise<Along> {
  const answer = await office.get(`/api/sites/${siteId}/along`);
  expect(answer.status()).toBe(200);
  return (await answer.json()) as Along;
}
