import { expect, test } from "@playwright/test";
import { fill, save, screen, signIn, view, violations } from "./people.ts";

test("the starting points are worked out side by side, one is taken, and what stands says that it is old", async ({
  page,
}) => {
  await signIn(page);
  await page.getByRole("link", { name: "Quarrel Hill campus" }).click();
  await screen(page, "Limits");
  await view(page, "Starting points");
  const compared = page.getByRole("region", { name: "Starting points compared" });
  await expect(compared.getByRole("row")).toHaveCount(8 + 11, { timeout: 60_000 });
  await expect(compared.getByText(/Presa would take/)).toBeVisible();
  await expect(compared.getByRole("row", { name: /^The same, its sets learned/ })).toBeVisible();
  expect(await violations(page, { tags: ["wcag2a", "wcag2aa"] })).toEqual([]);
  await compared.getByRole("button", { name: "Take Steady" }).click();
  await expect(compared.getByText("worked out before the last change")).toBeVisible();
  await view(page, "Jaw");
  await expect(page.getByRole("combobox", { name: "School to start from" })).toHaveValue("steady");
  await page.getByRole("combobox", { name: "Persistence is" }).selectOption("mean");
  await expect(page.getByRole("combobox", { name: "School to start from" })).toHaveValue("own");
});

test("a main with limits of its own passes them on to its stations, and each figure says where it is from", async ({
  page,
}) => {
  await signIn(page);
  await page.getByRole("link", { name: "Larkspur Clinic garden" }).click();
  await screen(page, "Limits");
  await view(page, "Connections and mains");
  await expect(page.getByLabel("High limit of Garden loop")).toHaveAttribute("placeholder", "20 (site)");
  await fill(page, "High limit of Clinic vault", "35");
  await expect(page.getByLabel("High limit of Garden loop")).toHaveAttribute("placeholder", "35 (Clinic vault)");
  await page.getByRole("combobox", { name: "Response when low of Garden loop" }).selectOption({ label: "notify" });
  await view(page, "Jaw");
  await page.getByRole("button", { name: /^1 Entrance lawn: expected 14.6/ }).click({ position: { x: 12, y: 8 } });
  await expect(page.getByLabel("High, this one, %")).toHaveAttribute("placeholder", "35 (Clinic vault)");
  await expect(page.getByRole("button", { name: /^1 Entrance lawn/ })).toHaveAttribute("aria-label", /above 19\.7/);
  await page.getByRole("button", { name: "In any set of the plan" }).click();
  await page.keyboard.press("d");
  await expect(page.getByRole("region", { name: "Unsaved changes" })).toContainText(
    "Clinic vault: policy none → high 35 %",
  );
});

test("a sweep of faults tells what would be found, and its worst gaps; a night is played from event to event", async ({
  page,
}) => {
  await signIn(page);
  await page.getByRole("link", { name: "Larkspur Clinic garden" }).click();
  await screen(page, "Bench");
  await page.getByLabel("Night of", { exact: true }).fill("2026-07-13");
  await view(page, "Fault sweep");
  await page.getByLabel("Observe").check();
  await page.getByLabel("mainline break").check();
  await page.getByRole("button", { name: "Sweep 9 stations, 3 faults, 2 policies" }).click();
  const sum = page.getByRole("table", { name: "In sum" });
  await expect(sum.getByRole("row")).toHaveCount(7, { timeout: 60_000 });
  await expect(page.getByRole("table", { name: "Worst gaps" })).toContainText("What to change", { timeout: 60_000 });
  await expect(page.getByRole("table", { name: "Worst gaps" })).toContainText("The response only tells");
  await expect(page.getByRole("table", { name: "Station by station" }).getByRole("row").nth(1)).toContainText(
    /found|missed|told/,
  );

  await expect(page.getByRole("table", { name: "Mains, supplies and sensors" })).toContainText("Garden loop");

  await view(page, "One night");
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

test("the jaw: all walls are dragged, one row is overridden by drag and by key, undo takes a whole drag back, the table has the same figures", async ({
  page,
}) => {
  await signIn(page);
  await page.getByRole("link", { name: /Hollin Bank/ }).click();
  await screen(page, "Limits");
  const high = page.getByRole("slider", { name: "High limit of all stations" });
  await expect(high).toHaveAttribute("aria-valuenow", /\d+/);
  const before = Number(await high.getAttribute("aria-valuenow"));
  const box = (await high.boundingBox()) as { x: number; y: number; width: number; height: number };
  const from = { x: box.x + box.width / 2, y: box.y + box.height / 2 };
  await page.mouse.move(from.x, from.y);
  await page.mouse.down();
  for (let i = 1; i <= 12; i++) await page.mouse.move(from.x + 4 * i, from.y);
  await page.mouse.up();
  const dragged = Number(await high.getAttribute("aria-valuenow"));
  expect(dragged).toBeGreaterThan(before + 3);
  await expect(page.getByLabel("High, % above", { exact: true })).toHaveValue(String(dragged));
  await page.keyboard.press("Control+z");
  await expect(high).toHaveAttribute("aria-valuenow", String(before));
  await high.focus();
  await page.keyboard.press("ArrowRight");
  await expect(high).toHaveAttribute("aria-valuenow", String(before + 1));

  await page.getByRole("button", { name: "As a table" }).click();
  const table = page.getByRole("table", { name: "Limits as a table" });
  await expect(table.getByRole("row")).toHaveCount(37);
  const row = table.getByRole("row").nth(1);
  const field = row.getByLabel(/^High limit of/);
  await field.fill("60");
  await field.press("Enter");
  await expect(row).toContainText("seen");
  const tripsAt = (await row.getByRole("cell").nth(3).textContent()) as string;
  await page.keyboard.press("Escape");
  await field.blur();
  await page.keyboard.press("t");
  await expect(page.getByRole("button", { name: new RegExp(`above ${tripsAt.split(" ")[0]}`) }).first()).toBeVisible();
});

test("hand-watering hours are set on Limits, and say what they cost the limit and the ceiling", async ({ page }) => {
  await signIn(page);
  await page.getByRole("link", { name: "Larkspur Clinic garden" }).click();
  await screen(page, "Limits");
  await view(page, "Hand watering");
  const at = page.getByRole("group", { name: "Hand watering at Clinic vault" });
  await at.getByRole("button", { name: "hours", exact: true }).click();
  await at.getByLabel("from").fill("21:30");
  await at.getByLabel("to", { exact: true }).fill("23:30");
  await at.getByRole("button", { name: "Su" }).click();
  await expect(at).toContainText("the high limit is");
  await expect(at).toContainText("are left to stations");
  await page.keyboard.press("d");
  await expect(page.getByRole("region", { name: "Unsaved changes" })).toContainText(/hand/i);
});

test("a night with a fault tells what it did to the rest, and what the starting points would have done", async ({
  page,
}) => {
  await signIn(page);
  await page.getByRole("link", { name: "Larkspur Clinic garden" }).click();
  await screen(page, "Bench");
  await page.getByLabel("Night of", { exact: true }).fill("2026-07-13");
  await page.getByRole("button", { name: "fault", exact: true }).click();
  await page.getByLabel("from", { exact: true }).fill("+60");
  await page.getByLabel("from", { exact: true }).press("Enter");
  await page.getByRole("button", { name: "Run the night" }).click();
  await expect(page.getByLabel("Result")).toContainText("lost", { timeout: 30_000 });
  await page.getByRole("button", { name: "The rest of the night, and other policies on it" }).click();
  await expect(page.getByRole("table", { name: "Other policies on this night" }).getByRole("row")).toHaveCount(7, {
    timeout: 60_000,
  });
  await expect(page.getByRole("table", { name: "The rest of the night" })).toContainText("Entrance lawn");
});

test("limits by budget lose less water at no more trips than asked, and are taken and saved in one step", async ({
  page,
}) => {
  test.setTimeout(180_000);
  await signIn(page);
  await page.getByRole("link", { name: "Sallow Court housing" }).click();
  await screen(page, "Limits");
  await view(page, "By budget");
  await fill(page, "Trips for nothing in a season, at most", "2");
  await page.getByRole("button", { name: "Work it out" }).click();
  await expect(page.getByRole("progressbar", { name: "Searching" })).toBeVisible();
  const best = page.getByRole("row", { name: /least water within the budget/ });
  await expect(best).toBeVisible({ timeout: 120_000 });
  await expect(best.getByRole("radio")).toBeChecked();
  const figure = async (row: typeof best, place: number): Promise<number> =>
    Number((await row.getByRole("cell").nth(place).textContent())?.replace(/[,<\s]/g, ""));
  expect(await figure(best, 3)).toBeLessThan(await figure(page.getByRole("row", { name: /^As it stands/ }), 3));
  expect(await figure(best, 1)).toBeLessThanOrEqual(2);
  expect(await violations(page, { tags: ["wcag2a", "wcag2aa"] })).toEqual([]);
  await page.getByRole("button", { name: "Take these limits into the draft" }).click();
  await expect(page.getByText("worked out before the last change")).toBeVisible();
  await save(page);
  await screen(page, "Log");
  await expect(page.getByText(/policy|limit/i).first()).toBeVisible();
});

test("a night that can be watched shows more breaks, beside the night as it is, and its settings are taken", async ({
  page,
}) => {
  test.setTimeout(180_000);
  await signIn(page);
  await page.getByRole("link", { name: "Quarrel Hill campus" }).click();
  await screen(page, "Night");
  await view(page, "Watchable night");
  await page.getByRole("checkbox", { name: /^limits too/ }).uncheck();
  await page.getByLabel(/^for at most/).selectOption("15");
  await page.getByRole("button", { name: "Search", exact: true }).click();
  await expect(page.getByText(/broken laterals seen in one set at least .*; as it is \d+\./)).toBeVisible({
    timeout: 60_000,
  });
  await expect(page.getByRole("button", { name: "Search", exact: true })).toBeVisible({ timeout: 60_000 });
  const watch = page.getByRole("region", { name: "A night that can be watched" });
  await watch.getByRole("row").last().getByRole("radio").check();
  await expect(page.getByText(/^Watchable: ends/)).toBeVisible();
  expect(await violations(page, { tags: ["wcag2a", "wcag2aa"] })).toEqual([]);
  await page.getByRole("button", { name: "Take these settings into the draft" }).click();
  await expect(page.getByRole("region", { name: "Unsaved changes" })).toContainText(/at once|order|priority/);
});
