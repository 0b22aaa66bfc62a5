import { expect, type Locator, type Page, test } from "@playwright/test";
import { DEMO_PASSWORD } from "../server/demo/people.ts";
import { MANAGER } from "./people.ts";

/** Everything here is pressed, nothing is clicked: Tab to a control, then keys. */
async function tabTo(page: Page, target: Locator): Promise<void> {
  await target.waitFor();
  await expect(target).toBeEnabled();
  for (let i = 0; i < 500; i++) {
    // Looked for anew each time: what the screen has drawn again is another element.
    const where = await target.evaluate((el) => {
      const at = document.activeElement;
      if (at === el) return "here";
      if (!at || at === document.body) return "Tab";
      return at.compareDocumentPosition(el) & Node.DOCUMENT_POSITION_PRECEDING ? "Shift+Tab" : "Tab";
    });
    if (where === "here") return;
    await page.keyboard.press(where);
  }
  throw new Error(`Tab does not reach ${target}`);
}
const press = async (page: Page, target: Locator): Promise<void> => {
  await tabTo(page, target);
  await page.keyboard.press("Enter");
};
const write = async (page: Page, label: string | RegExp, text: string): Promise<void> => {
  await tabTo(page, page.getByLabel(label).first());
  await page.keyboard.press("Control+a");
  await page.keyboard.type(text);
  await page.keyboard.press("Tab");
};
const choose = async (page: Page, label: string, start: string): Promise<void> => {
  await tabTo(page, page.getByRole("combobox", { name: label, exact: true }).first());
  await page.keyboard.type(start);
};
const tick = async (page: Page, name: string): Promise<void> => {
  await tabTo(page, page.getByRole("checkbox", { name }));
  await page.keyboard.press("Space");
};
const button = (page: Page, name: string | RegExp): Locator =>
  page.getByRole("button", { name, exact: typeof name === "string" }).first();
/** What a new one is called. */
const CALLED: Record<string, string> = {
  Source: "Source",
  "Point of connection": "Connection",
  Mainline: "Main",
  Controller: "Controller",
};
/** From the menu of the drawing; until it stands open. */
const piece = async (page: Page, name: string): Promise<void> => {
  await press(page, button(page, "Add"));
  await press(page, button(page, name));
  await page
    .getByRole("complementary", { name: "Ledger" })
    .getByRole("button", { name: new RegExp(`^${CALLED[name]} \\d`), expanded: true })
    .waitFor();
};
/** To a view of the screen: the arrows go from one to the next. */
const branch = async (page: Page, name: string): Promise<void> => {
  const tabs = page.getByRole("tablist").getByRole("tab");
  await tabTo(page, page.getByRole("tablist").locator("[aria-selected=true]"));
  for (let i = 0; i < (await tabs.count()); i++) {
    if ((await page.getByRole("tab", { name, exact: true }).getAttribute("aria-selected")) === "true") return;
    await page.keyboard.press("ArrowRight");
    await expect(page.locator("[role=tab]:focus")).toHaveAttribute("aria-selected", "true");
  }
  throw new Error(`The arrows do not reach ${name}`);
};

test("a site of 20 stations on two connections, from nothing, by keyboard alone", async ({ page, context }) => {
  test.setTimeout(240_000);
  page.setDefaultTimeout(15_000);
  await context.grantPermissions(["clipboard-read", "clipboard-write"]);
  await page.goto("/sign-in");
  await write(page, "E-mail", MANAGER);
  await write(page, "Password", DEMO_PASSWORD);
  await press(page, button(page, "Sign in"));
  await page.getByRole("heading", { name: "Rounds" }).waitFor();
  const name = `Keyboard site ${Date.now()}`;
  await press(page, button(page, "New site"));
  await write(page, "Name of the site", name);
  await write(page, "Time zone", "America/Los_Angeles");
  await press(page, button(page, /^Create and draw/));
  await page.getByRole("heading", { name, level: 1 }).waitFor();

  const ledger = page.getByRole("complementary", { name: "Ledger" });
  const source = async (title: string, yieldLpm: string, pressure: string): Promise<void> => {
    await piece(page, "Source");
    await write(page, "Name", title);
    await write(page, "Sustained yield, L/min", yieldLpm);
    await write(page, "Static pressure, kPa", pressure);
    await write(page, "Pressure it loses, kPa", "60");
    await write(page, /^at a flow of/, "300");
  };
  await source("Street main", "500", "520");
  await source("Tank", "300", "430");
  const connection = async (title: string, meter: string): Promise<void> => {
    await piece(page, "Point of connection");
    await write(page, "Name", title);
    await press(page, ledger.getByRole("group", { name: "Add a piece" }).getByRole("button", { name: "Water meter" }));
    await write(page, "Continuous rating, L/min", meter);
    await press(page, ledger.getByRole("group", { name: "Add a piece" }).getByRole("button", { name: "Master valve" }));
    await press(page, ledger.getByRole("group", { name: "Add a piece" }).getByRole("button", { name: "Flow sensor" }));
    await press(page, ledger.getByRole("button", { name: new RegExp(title) }).first());
    await press(page, ledger.getByRole("button", { name: new RegExp(title) }).first());
    await write(page, "Off-schedule limit, L/min", "25");
    await write(page, "Burst limit, L/min", String(Number(meter) + 60));
  };
  await connection("Gate vault", "320");
  await connection("Tank house", "180");
  await tick(page, "Street main");
  await tick(page, "Tank");

  const main = async (title: string, size: string, length: string): Promise<void> => {
    await piece(page, "Mainline");
    await write(page, "Name", title);
    await press(page, ledger.getByRole("group", { name: "Add a piece" }).getByRole("button", { name: "Pipe" }));
    await choose(page, "Nominal size", size);
    await write(page, "Length, m", length);
  };
  await main("West main", "3", "2*90");
  await main("East main", "2.5", "140");
  const west = ledger.getByRole("button", { name: /^West main/ });
  await press(page, west);
  await expect(west).toHaveAttribute("aria-expanded", "true");
  await tick(page, "Tank house");
  await tick(page, "Gate vault");
  await piece(page, "Controller");
  await write(page, "Current it can hold, mA", "1500");

  // The drawing, by keyboard: focus a connection and move it; undo puts it back, redo moves it again.
  const drawing = page.getByRole("group", { name: "Drawing of the waterworks" });
  const vault = drawing.getByRole("button", { name: /^Gate vault, ceiling/ });
  await press(page, ledger.getByRole("button", { name: /^Gate vault/ }));
  await expect(drawing.locator('[data-pick][tabindex="0"]')).toHaveCount(1);
  await tabTo(page, vault);
  await page.keyboard.press("ArrowRight");
  await expect(vault).not.toBeFocused();
  await expect(drawing.locator("[data-pick]:focus")).toHaveCount(1);
  await page.keyboard.press("ArrowLeft");
  await expect(vault).toBeFocused();
  await page.keyboard.press("Enter");
  await expect(ledger.getByRole("button", { name: /^Gate vault/ })).toHaveAttribute("aria-expanded", "true");
  await page.keyboard.press("Shift+ArrowDown");
  const bar = page.getByRole("region", { name: "Unsaved changes" });
  const note = page.locator("text=1 piece moved");
  await press(page, bar.getByRole("button", { name: /^Show all/ }));
  await expect(note).toBeVisible();
  await press(page, button(page, "Undo"));
  await expect(note).toBeHidden();
  await press(page, button(page, "Redo"));
  await expect(note).toBeVisible();
  await press(page, bar.getByRole("button", { name: "Save", exact: true }));
  await expect(bar).toBeHidden();

  const text = [
    "No.\tName\tMainline\tEmitter\tDesign\tNeeds",
    ...Array.from(
      { length: 20 },
      (_, i) => `${i + 1}\tPlot ${i + 1}\t${i % 2 ? "East main" : "West main"}\tspray\t${38 + ((i * 7) % 30)}\t210`,
    ),
  ].join("\n");
  await page.keyboard.press("Tab");
  await page.evaluate(() => (document.activeElement as HTMLElement | null)?.blur());
  await page.keyboard.press("3");
  await page.getByRole("heading", { name: "Stations", level: 2 }).waitFor();
  await page.evaluate((t) => navigator.clipboard.writeText(t), text);
  await tabTo(page, page.getByRole("gridcell").first());
  await page.keyboard.press("Control+v");
  await expect(page.getByText("Pasted: 20 added, 0 changed")).toBeVisible();
  await press(page, bar.getByRole("button", { name: "Save", exact: true }));
  await expect(bar).toBeHidden();

  await page.evaluate(() => (document.activeElement as HTMLElement | null)?.blur());
  await page.keyboard.press("1");
  await page.getByRole("heading", { name: "Waterworks", level: 2 }).waitFor();
  await branch(page, "Pressure");
  const pressure = page.getByRole("region", { name: "Pressure" });
  await expect(pressure.getByRole("row")).toHaveCount(21);
  await choose(page, "Running", "as many");
  await expect(pressure).toContainText(/Worst: \d+ Plot \d+/);
  await expect(pressure.getByRole("columnheader", { name: "Alone" })).toBeVisible();

  await branch(page, "Devices and wires");
  await expect(page.getByRole("heading", { name: "Controller 1" })).toBeVisible();
  await write(page, /Paste or scan/, "K300 K301 K301");
  await press(page, button(page, "Into the tray"));
  await expect(page.getByRole("alert").filter({ hasText: "K301 is in the tray already" })).toBeVisible();
  await press(page, button(page, "K300"));
  await press(page, button(page, "Assign K300 to 2 Plot 2"));
  await expect(page.locator("[data-wired]").filter({ hasText: "2 Plot 2" }).first()).toContainText("K300");
});
