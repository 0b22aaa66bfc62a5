import AxeBuilder from "@axe-core/playwright";
import { expect, type Page } from "@playwright/test";
import { DEMO_PASSWORD } from "../server/demo/people.ts";

export const MANAGER = "maren@presa.example";
export const VIEWER = "wim@presa.example";
export const STRANGER = "iskra@ruddle.example";

export async function signIn(page: Page, email = MANAGER): Promise<void> {
  await page.goto("/sign-in");
  await page.getByLabel("E-mail").fill(email);
  await page.getByLabel("Password").fill(DEMO_PASSWORD);
  await page.getByRole("button", { name: "Sign in" }).click();
  await expect(page.getByRole("heading", { name: "Rounds" })).toBeVisible();
}

/** Opens a fitting of the drawn pipe. */
export async function screen(page: Page, name: string): Promise<void> {
  await page
    .getByRole("navigation", { name: "Steps of the work" })
    .getByRole("link", { name: new RegExp(`^${name}`) })
    .click();
  await expect(page.getByRole("heading", { name, level: 2 })).toBeVisible();
}

/** Presses Save and waits until it is saved. */
export async function save(page: Page): Promise<void> {
  const bar = page.getByRole("region", { name: "Unsaved changes" });
  await bar.getByRole("button", { name: "Save", exact: true }).click();
  await nothingUnsaved(page);
}

export async function fill(page: Page, label: string | RegExp, value: string): Promise<void> {
  const field = page.getByLabel(label).first();
  await field.fill(value);
  await field.press("Enter");
  await field.blur();
}

/** Opens a view of the screen that is open. */
export async function view(page: Page, name: string | RegExp): Promise<void> {
  await page
    .getByRole("tablist")
    .getByRole("tab", { name, exact: typeof name === "string" })
    .click();
}

/** Adds an element to the waterworks, from the menu of the drawing. */
export async function addPiece(page: Page, name: string): Promise<void> {
  await page.getByRole("button", { name: "Add", exact: true }).click();
  await page.getByRole("button", { name, exact: true }).click();
}

/** Nothing is left to save; what was undone or discarded may still be offered. */
export async function nothingUnsaved(page: Page): Promise<void> {
  await expect(page.getByText(/\d+ changes? not saved/)).toBeHidden();
}

type Found = { html: string; any: { message: string }[] };
/**
 * What the drawing shows is as small as it is zoomed; all of it is in the ledger beside it, at its full size. What a bar that stays in sight covers
 * in part is scrolled out from under it.
 */
const isExcused = (rule: string, { html, any }: Found): boolean =>
  rule === "target-size" && (html.includes("nodrag") || any.some((a) => a.message.includes("partially obscured")));

/** What axe finds on the page as it stands once it answers, each as rule and place; of some rules only, or of those with some tags, where they are given. */
export async function violations(page: Page, only: { tags?: string[]; rules?: string[] } = {}): Promise<string[]> {
  await expect(page.locator("body")).not.toHaveAttribute("inert");
  const axe = new AxeBuilder({ page });
  if (only.tags) axe.withTags(only.tags);
  if (only.rules) axe.withRules(only.rules);
  const found = await axe.analyze();
  return found.violations.flatMap((v) => {
    const first = v.nodes.find((n) => !isExcused(v.id, n));
    return first ? [`${v.id}: ${first.html}`] : [];
  });
}

/** Waits until the screen of a site shows what it is to show: its night is worked out and nothing on it is still being done. */
export async function settled(page: Page): Promise<void> {
  await expect(page.locator('[data-night="done"]').first()).toBeAttached();
  await expect(page.getByRole("status").filter({ hasText: /…\s*$/ })).toHaveCount(0, { timeout: 30_000 });
}
