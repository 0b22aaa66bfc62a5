import AxeBuilder from "@axe-core/playwright";
import { expect, test } from "@playwright/test";
import { fill, screen, signIn } from "./people.ts";

test("the starting points are worked out side by side, one is taken, and what stands says that it is old", async ({ page }) => {
  await signIn(page);
  await page.getByRole("link", { name: "Quarrel Hill campus" }).click();
  await screen(page, "Limits");
  const compared = page.getByRole("region", { name: "Starting points compared" });
  await compared.getByRole("button", { name: "Work it out" }).click();
  await expect(compared.getByRole("row")).toHaveCount(8 + 11, { timeout: 60_000 });
  await expect(compared.getByText(/Presa would take/)).toBeVisible();
  await expect(compared.getByRole("row", { name: /^The same, its sets learned/ })).toBeVisible();
  const found = await new AxeBuilder({ page }).withTags(["wcag2a", "wcag2aa"]).analyze();
  expect(found.violations.map((v) => `${v.id}: ${v.nodes[0]?.html}`)).toEqual([]);
  await compared.getByRole("button", { name: "Take Steady" }).click();
  await expect(page.getByRole("combobox", { name: "School to start from" })).toHaveValue("steady");
  await expect(compared.getByText("△ worked out before the last change")).toBeVisible();
  await page.getByRole("combobox", { name: "Persistence is" }).selectOption("mean");
  await expect(page.getByRole("combobox", { name: "School to start from" })).toHaveValue("own");
});

test("a main with limits of its own passes them on to its stations, and each figure says where it is from", async ({ page }) => {
  await signIn(page);
  await page.getByRole("link", { name: "Larkspur Clinic garden" }).click();
  await screen(page, "Limits");
  await page.getByText("Of connections and mains: all as the site's").click();
  await expect(page.getByLabel("High limit of Garden loop")).toHaveAttribute("placeholder", "20 (site)");
  await fill(page, "High limit of Clinic vault", "35");
  await expect(page.getByLabel("High limit of Garden loop")).toHaveAttribute("placeholder", "35 (Clinic vault)");
  await page.getByRole("combobox", { name: "Response when low of Garden loop" }).selectOption({ label: "notify" });
  await page.getByRole("button", { name: /^1 Entrance lawn: expected 14.6/ }).click();
  await expect(page.getByLabel("High, this one, %")).toHaveAttribute("placeholder", "35 (Clinic vault)");
  await expect(page.getByRole("button", { name: /^1 Entrance lawn/ })).toHaveAttribute("aria-label", /above 19\.7/);
  await page.getByRole("button", { name: "In any set of the plan" }).click();
  await page.keyboard.press("d");
  await expect(page.getByRole("region", { name: "Unsaved changes" })).toContainText("Clinic vault: policy none → high 35 %");
});

test("a sweep of faults tells what would be found, and its worst gaps; a night is played from event to event", async ({ page }) => {
  await signIn(page);
  await page.getByRole("link", { name: "Larkspur Clinic garden" }).click();
  await screen(page, "Bench");
  await page.locator("input[type=date]").first().fill("2026-07-13");
  await page.getByRole("button", { name: "Fault sweep" }).click();
  await page.getByLabel("Observe").check();
  await page.getByRole("button", { name: "Sweep 9 stations × 2 × 2" }).click();
  const sum = page.getByRole("table", { name: "In sum" });
  await expect(sum.getByRole("row")).toHaveCount(5, { timeout: 60_000 });
  await expect(page.getByRole("table", { name: "Worst gaps" })).toContainText("What to change", { timeout: 60_000 });
  await expect(page.getByRole("table", { name: "Worst gaps" })).toContainText("The response only tells");
  await expect(page.getByRole("table", { name: "Station by station" }).getByRole("row").nth(1)).toContainText(/found|missed|told/);

  await page.getByRole("button", { name: "One night" }).click();
  await page.getByRole("button", { name: "Run the night" }).click();
  const playing = page.getByRole("group", { name: "Playing the night" });
  await expect(playing).toBeVisible({ timeout: 30_000 });
  await playing.getByLabel("Speed").selectOption("1800");
  const at = async (): Promise<number> => Number(await playing.getByLabel("Time of the night").inputValue());
  const before = await at();
  await playing.getByRole("button", { name: "Play" }).click();
  await expect.poll(at).toBeGreaterThan(before + 600);
  const pause = playing.getByRole("button", { name: "Pause" });
  if (await pause.isVisible()) await pause.click();
  await playing.getByLabel("Time of the night").fill(String(before));
  await page.getByLabel("only what matters").uncheck();
  await playing.getByRole("button", { name: "Next event" }).click();
  expect(await at()).toBeGreaterThan(before);
});
