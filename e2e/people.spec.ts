import { expect, type Page, test } from "@playwright/test";
import { Secret, TOTP } from "otpauth";
import { signIn, violations } from "./people.ts";

const PASSWORD = "four quiet words here";
const code = (secret: string, steps = 0): string =>
  new TOTP({ secret: Secret.fromBase32(secret) }).generate({ timestamp: Date.now() + 30_000 * steps });

async function atTheDoor(page: Page, email: string): Promise<void> {
  await page.goto("/sign-in");
  await page.getByLabel("E-mail").fill(email);
  await page.getByLabel("Password").fill(PASSWORD);
  await page.getByRole("button", { name: "Sign in" }).click();
}

test("somebody is invited, joins, sets up a second step, signs in with it, and begins a site", async ({
  page,
  browser,
}) => {
  const email = `odile-${Date.now()}@presa.example`;
  await signIn(page);
  await page.getByRole("navigation", { name: "Pages" }).getByRole("link", { name: "Organisation" }).click();
  await expect(page.getByRole("table", { name: "People" })).toContainText("Tolly Brandish");
  expect(await violations(page)).toEqual([]);
  await page.getByLabel("E-mail").fill(email);
  await page.getByRole("button", { name: "Invite" }).click();
  const link = await page.getByLabel("Link that works once").inputValue();
  await expect(page.getByRole("table", { name: "Invitations that can still be used" })).toContainText(email);

  const context = await browser.newContext();
  const hers = await context.newPage();
  await hers.goto(link);
  await expect(hers.getByRole("heading", { name: "Join Tarrow County Grounds" })).toBeVisible();
  expect(await violations(hers)).toEqual([]);
  await hers.getByLabel("Your name, as others see it").fill("Odile Marchbank");
  await hers.getByLabel("Password").fill("short");
  await hers.getByRole("button", { name: "Join" }).click();
  await expect(hers.getByRole("alert").first()).toContainText("at least 12 characters");
  await hers.getByLabel("Password").fill(PASSWORD);
  await hers.getByRole("button", { name: "Join" }).click();
  await expect(hers.getByRole("heading", { name: "Rounds" })).toBeVisible();

  await hers.getByRole("button", { name: "Odile Marchbank, technician" }).click();
  await hers.getByRole("link", { name: "Your account" }).click();
  await hers.getByRole("button", { name: "Set up a second step" }).click();
  const secret = (await hers.locator("code").textContent()) ?? "";
  await hers.getByLabel("Code").fill(code(secret));
  await hers.getByRole("button", { name: "Confirm" }).click();
  const recovery = (await hers.getByLabel("Recovery codes").inputValue()).split(" ");
  expect(recovery).toHaveLength(10);
  expect(await violations(hers)).toEqual([]);

  await hers.getByRole("button", { name: "Odile Marchbank, technician" }).click();
  await hers.getByRole("button", { name: "Sign out" }).click();
  await expect(hers.getByRole("button", { name: "Sign in" })).toBeVisible();
  await atTheDoor(hers, email);
  await hers.getByLabel("Code").fill("000000");
  await hers.getByRole("button", { name: "Sign in" }).click();
  await expect(hers.getByRole("alert").first()).toContainText("That code is not right");
  await hers.getByLabel("Code").fill(code(secret, 1));
  await hers.getByRole("button", { name: "Sign in" }).click();
  await expect(hers.getByRole("heading", { name: "Rounds" })).toBeVisible();

  await hers.getByRole("button", { name: "New site" }).click();
  await hers.getByLabel("Name of the site").fill("Marchbank Green");
  await hers.getByLabel("Time zone").fill("Europe/Vienna");
  await hers.getByRole("button", { name: "Create and draw its waterworks" }).click();
  await expect(hers.getByRole("heading", { name: "Waterworks" })).toBeVisible();

  // Whoever holds the link afterwards finds nothing; taken out, she is signed out at once.
  await page.goto(link);
  await expect(page.getByRole("heading", { name: "This link leads nowhere any more" })).toBeVisible();
  await page.goto("/organisation");
  await page.getByRole("button", { name: "More about Odile Marchbank" }).click();
  await page.getByRole("button", { name: "Take out…" }).click();
  await page.getByRole("button", { name: "Take Odile Marchbank out" }).click();
  await expect(page.getByText(/^Left:.*Odile Marchbank/)).toBeVisible();
  await hers.goto("/");
  await expect(hers.getByRole("button", { name: "Sign in" })).toBeVisible();
  await context.close();
});
