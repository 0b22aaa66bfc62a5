import { expect, test } from "@playwright/test";
import { fill, screen, signIn, view, violations } from "./people.ts";

const TECHNICIAN = "tolly@presa.example";
const PICTURE = Buffer.from(
  "iVBORw0KGgoAAAANSUhEUgAAAAEAAAABCAYAAAAfFcSJAAAADUlEQVR42mNk+M9QDwADhgGAWjR9awAAAABJRU5ErkJggg==",
  "base64",
);

test("a visit is gone through, what is not in order is to do until it is done, and the calendar has both", async ({
  page,
}) => {
  await signIn(page, TECHNICIAN);
  await page.getByRole("link", { name: "Lakeside Park" }).click();
  await screen(page, "Log");
  await view(page, "Visits");
  await page.getByLabel("Kind of visit").selectOption("Spring start");
  await page.getByRole("button", { name: "Begin a visit" }).click();
  const line = (name: string | RegExp) => page.getByRole("group", { name });
  await line("Controller on automatic").getByRole("button", { name: "In order", exact: true }).click();
  await line("Valve boxes").getByRole("button", { name: "Not in order" }).click();
  const words = `Lid of the box at the lodge ${Date.now()}`;
  const form = page.getByRole("form", { name: "Not in order: Valve boxes" });
  await form.getByLabel("What is to do").fill(words);
  await form.getByLabel("Who does it").selectOption("Tolly Brandish");
  await form.getByRole("textbox", { name: "By" }).fill("2027-01-20");
  await form
    .getByLabel("A photograph", { exact: true })
    .setInputFiles({ name: "lid.png", mimeType: "image/png", buffer: PICTURE });
  await expect(form.getByText("lid.jpg")).toBeVisible();
  await form.getByRole("button", { name: "Note it" }).click();
  await expect(page.getByRole("link", { name: "photograph" })).toBeVisible();
  // One of the three controllers has a new battery.
  await line("Backup battery").getByRole("button", { name: "Done anew" }).click();
  await page.getByRole("checkbox", { name: "West lodge" }).uncheck();
  await page.getByRole("button", { name: "Note it" }).click();
  await expect(line("Backup battery").getByRole("button", { name: "Done anew" })).toHaveAttribute(
    "aria-pressed",
    "true",
  );
  await expect(page.getByText(/11 of 14 lines not entered yet/)).toBeVisible();
  await page.getByRole("button", { name: "End the visit" }).click();
  await expect(page.getByRole("table", { name: "Visits" }).getByRole("row", { name: /Spring start/ })).toContainText(
    "3 of 14",
  );
  expect(await violations(page)).toEqual([]);

  await view(page, "To do");
  const todo = page.getByRole("list", { name: "To do" }).getByRole("listitem").filter({ hasText: words });
  await expect(todo).toContainText("Tolly Brandish");
  const due = page.getByRole("table", { name: "Due anew" });
  await expect(due.getByRole("row", { name: /backup battery West lodge/ })).toContainText("nobody has noted it");
  expect(await violations(page)).toEqual([]);
  await page.goto("/");
  await expect(page.getByRole("row", { name: /Lakeside Park/ })).toContainText("1 to do");
  await page.goto("/calendar?month=2027-01");
  const entry = page.getByRole("grid").getByRole("link", { name: new RegExp(words) });
  await expect(entry).toBeVisible();
  expect(await violations(page)).toEqual([]);
  await entry.click();
  await todo.getByRole("button", { name: "Done…" }).click();
  await fill(page, "What was done", "a new lid");
  await page.getByRole("button", { name: "It is done" }).click();
  await expect(page.getByText("Done: 1")).toBeVisible();
  await page.goto("/");
  await expect(page.getByRole("row", { name: /Lakeside Park/ })).not.toContainText("to do");

  // All of it stands in the timeline, each with the way to it.
  await page.getByRole("link", { name: "Lakeside Park" }).click();
  await screen(page, "Log");
  await page.getByRole("button", { name: "Visits, to do" }).click();
  const happened = page.getByRole("list", { name: "Timeline" });
  await expect(happened.getByRole("link", { name: new RegExp(`To do: ${words}`) })).toContainText("a new lid");
  await expect(happened.getByRole("link", { name: /backup battery done/ })).toHaveCount(2);
  expect(await violations(page)).toEqual([]);
  await happened.getByRole("link", { name: /Spring start, Tolly/ }).click();
  await expect(page.getByRole("heading", { name: /^Spring start/ })).toBeVisible();
});

test("valves by wire are pasted, and what is bad is noted as something to do", async ({ page }) => {
  await signIn(page, TECHNICIAN);
  await page.getByRole("link", { name: "Larkspur Clinic garden" }).click();
  await screen(page, "Controllers");
  await view(page, "Valve check");
  const table = page.getByRole("table", { name: "Valves by wire" });
  await expect(table.getByRole("row", { name: /^7 Staff terrace/ })).toContainText("open circuit");
  await page.getByRole("button", { name: "Paste" }).click();
  await page.getByLabel(/A line for each station/).fill("station, mA\n1, 231\n2: 0.7 A\n99, 230");
  await expect(page.getByText(/this controller has no station 99/)).toBeVisible();
  await page.getByRole("button", { name: "Keep 2 readings" }).click();
  const row = table.getByRole("row", { name: /^2 Waiting court beds/ });
  await expect(row).toContainText("short");
  await expect(row).toContainText("changed, was good");
  await row.getByRole("button", { name: /something to do/ }).click();
  expect(await violations(page)).toEqual([]);
  await page.goto(page.url().replace(/controllers.*/, "findings"));
  await expect(page.getByRole("region", { name: "To do" })).toContainText(
    "Station 2 Waiting court beds: short, 700 mA by wire",
  );
});

test("an organisation writes its checklists, and the calendar is read from outside by a secret address", async ({
  page,
  playwright,
}) => {
  await signIn(page);
  await page.goto("/organisation?view=visits");
  await page.getByRole("button", { name: "Repair" }).click();
  await page.getByRole("button", { name: "Another line" }).click();
  await page.getByLabel("Line 8", { exact: true }).fill("Gate locked again");
  await page.getByRole("button", { name: "Keep", exact: true }).click();
  await expect(page.getByRole("button", { name: "Keep", exact: true })).toBeDisabled();
  expect(await violations(page)).toEqual([]);
  await page.getByRole("link", { name: "Calendar", exact: true }).click();
  await page.getByRole("button", { name: "In another calendar…" }).click();
  await page.getByRole("button", { name: /^Make an/ }).click();
  const address = await page.getByLabel("The address of your calendar").inputValue();
  const outside = await playwright.request.newContext();
  const feed = await outside.get(address);
  expect(feed.headers()["content-type"]).toContain("text/calendar");
  expect(await feed.text()).toContain("BEGIN:VEVENT");
  await page.getByRole("button", { name: "End it" }).click();
  await expect(page.getByRole("button", { name: "Make an address" })).toBeVisible();
  expect((await outside.get(address)).status()).toBe(404);
  await outside.dispose();
});
