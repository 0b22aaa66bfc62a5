import { readFileSync } from "node:fs";
import { expect, type Page, test } from "@playwright/test";
import type { SiteFile } from "../core/site-file/schema.ts";
import { smallSite } from "../testing/small-site.ts";
import { fill, save, screen, signIn, view, violations } from "./people.ts";

/** A made-up site of its own for each test, opened on Learn. */
async function learnOn(page: Page, change: (s: SiteFile) => void = () => {}): Promise<string> {
  await signIn(page);
  const file = smallSite((s) => {
    s.site.id = `e2e-learn-${Date.now()}`;
    s.site.name = `Learn site ${s.site.id}`;
    change(s);
  });
  const made = await page.request.post("/api/sites", {
    data: JSON.stringify(file),
    headers: { "content-type": "application/json" },
  });
  expect(made.status()).toBeLessThan(300);
  const { id } = (await made.json()) as { id: string };
  await page.goto(`/sites/${id}/learn`);
  return id;
}
const part = (page: Page, name: RegExp): Promise<void> => page.getByRole("tab", { name }).click();

test("from what is ready to flows that are taken, undone, and kept in the history", async ({ page }) => {
  await learnOn(page, (s) => {
    (s.pocs[0] as { handWatering?: unknown }).handWatering = [{ window: { from: "08:01", to: "08:30" }, flowLpm: 20 }];
    (s.programs[0] as { runs: unknown[] }).runs.pop();
    (s.stations[1] as { enteredFlowLpm?: number }).enteredFlowLpm = 96;
  });
  await expect(page.getByText("2 ready, 1 not")).toBeVisible();
  await expect(page.getByRole("link", { name: "has no run time in any program" })).toHaveAttribute(
    "href",
    /\/programs$/,
  );
  await expect(page.getByText(/Waits for hand-watering hours, 08:0\d to 08:30/)).toBeVisible();
  await expect(page.getByText(/With everything closed, a leak shows from/)).toBeVisible();

  // Another station's valve answers to number 1: it is refused nothing, but it will be odd.
  await page.getByLabel("Pace of the bench").selectOption("60");
  await page.getByRole("button", { name: "Learn 2 stations on the bench" }).click();
  await expect(page.getByRole("status").filter({ hasText: "1 S1 runs alone" })).toBeVisible({ timeout: 30_000 });
  await page.getByRole("button", { name: "Stop, keep what it has" }).click();
  await expect(page.getByText(/Stopped; \d of 2 learned/)).toBeVisible({ timeout: 20_000 });
  await part(page, /^Before/);
  await page.getByLabel("Pace of the bench").selectOption("0");
  await page.getByRole("button", { name: /^Go on with the \d left/ }).click();
  await expect(page.getByRole("button", { name: "Take 2 learned flows" })).toBeEnabled({ timeout: 30_000 });

  await page.getByRole("button", { name: "1 S1" }).click();
  const one = page.getByRole("complementary", { name: "One station" });
  await expect(one.getByText(/Steady after/)).toBeVisible();
  await page.getByRole("button", { name: "Take 2 learned flows" }).click();
  await expect(page.getByRole("cell", { name: "taken" })).toHaveCount(2);
  await expect(one.getByRole("cell", { name: /Maren Oddsdatter, rehearsed on the bench/ })).toBeVisible();

  // The figure by hand stays in use until someone chooses.
  await page.getByRole("button", { name: "2 S2" }).click();
  await expect(one.getByRole("radio", { name: /by hand/ })).toBeChecked();
  await one.getByRole("radio", { name: /learned/ }).check();
  await save(page);
  await expect(one.getByText(/since \d/)).toBeVisible();
  await page.getByRole("button", { name: "1 S1" }).click();
  await one.getByRole("button", { name: "Undo taking it" }).click();
  await expect(page.getByRole("cell", { name: "taken" })).toHaveCount(1);

  await page.getByRole("button", { name: "Read the meter before and after, for a smaller leak" }).click();
  await fill(page, "Meter before, L", "81200");
  const after = page.getByLabel("Meter after, L");
  await after.fill("81230");
  // Enter hands the form in, which then goes.
  await after.press("Enter");
  await expect(page.getByText(/3 L\/min with everything closed. That is a leak/)).toBeVisible();
});

test("a wrong constant and crossed wires are named, with what to do", async ({ page }) => {
  const row = (s: SiteFile, n: number): void => {
    s.stations = Array.from({ length: n }, (_, i) => ({
      ...(s.stations[0] as SiteFile["stations"][number]),
      id: `s${i + 1}`,
      number: i + 1,
      name: `Bed ${i + 1}`,
      designFlowLpm: 60 + 7 * i,
    }));
    s.programs[0] = {
      ...(s.programs[0] as SiteFile["programs"][number]),
      runs: s.stations.map((x) => ({ stationId: x.id, minutes: 5 })),
    };
  };
  await learnOn(page, (s) => row(s, 6));
  await page.getByText("Faults on the bench", { exact: true }).click();
  await page.getByRole("button", { name: "fault", exact: true }).click();
  await page.getByRole("combobox", { name: "Fault", exact: true }).selectOption({ label: "wrong K" });
  await fill(page, /^Factor/, "1.12");
  await page.getByLabel("Pace of the bench").selectOption("0");
  await page.getByRole("button", { name: "Learn 6 stations on the bench" }).click();
  await expect(
    page.getByRole("alert").filter({ hasText: "That is the sensor's constant, not the stations" }),
  ).toContainText(/All 6 stations behind .* read \+1[0-4](\.\d)? % against their design/, { timeout: 30_000 });
  await expect(page.getByText(/odd:/)).toHaveCount(0);

  await part(page, /^Before/);
  await page.getByRole("combobox", { name: "Fault", exact: true }).selectOption({ label: "wired to another's valve" });
  await page.getByRole("combobox", { name: "on", exact: true }).selectOption({ label: "1 Bed 1" });
  await page.getByRole("combobox", { name: "the valve of" }).selectOption({ label: "5 Bed 5" });
  await page.getByRole("button", { name: "Learn 6 stations on the bench" }).click();
  await expect(page.getByText(/1 odd: 1\./)).toBeVisible({ timeout: 30_000 });
  await expect(page.getByLabel("Take station 1", { exact: true })).not.toBeChecked();
  await page.getByRole("button", { name: "1 Bed 1" }).click();
  await expect(page.getByRole("complementary", { name: "One station" }).getByRole("listitem").first()).toContainText(
    "two station numbers on one valve (with 5 Bed 5)",
  );
});

test("flows from a list and from a recorder's log, matched, looked at, and taken", async ({ page }) => {
  await learnOn(page);
  await part(page, /^In and out/);
  await page.getByLabel("or paste it").fill("Valve;Reading L/s;Remark\n1;1,7;\n2;1,65;\n44;1;\n3;-1;");
  await page.getByRole("button", { name: "Look at it" }).click();
  await expect(page.getByText(/2 stations would be proposed, 2 accepted/)).toContainText("2 lines refused");
  await page.getByLabel("Flow in").selectOption("L/min");
  await page.getByLabel("Flow in").selectOption("L/s");
  await page.getByRole("button", { name: "Propose what is right" }).click();
  await page.getByRole("button", { name: "Take 2 learned flows" }).click();
  await expect(page.getByRole("cell", { name: "taken" })).toHaveCount(2);

  await part(page, /^In and out/);
  const lines = [
    "when,what it said,open",
    ...Array.from(
      { length: 200 },
      (_, s) =>
        `02:${String(Math.floor(s / 60)).padStart(2, "0")}:${String(s % 60).padStart(2, "0")},${s < 20 ? 0 : 51.5 + 0.3 * Math.sin(s)},${s < 20 ? "" : "3"}`,
    ),
  ];
  await page.getByLabel("or paste it").fill(lines.join("\n"));
  await page.getByRole("button", { name: "Look at it" }).click();
  await page.getByLabel("It is", { exact: true }).selectOption("readings");
  await page.getByLabel("when", { exact: true }).selectOption({ label: "time" });
  await page.getByLabel("what it said").selectOption({ label: "flow" });
  await page.getByLabel("open", { exact: true }).selectOption({ label: "station open" });
  await page.getByLabel("Flow in").selectOption("L/min");
  await expect(page.getByRole("cell", { name: "90 s" })).toBeVisible();
  await page.getByRole("button", { name: "Propose them" }).click();
  await page.getByRole("button", { name: "Take 1 learned flow", exact: true }).click();
  const download = page.waitForEvent("download");
  await part(page, /^In and out/);
  await page.getByRole("button", { name: "Flow figures, CSV" }).click();
  const csv = readFileSync(await (await download).path(), "utf8");
  expect(csv).toMatch(/\n1,S1,102,0,.*,list,/);
  expect(csv).toMatch(/\n3,S3,51\.\d+,.*,readings,/);
});

test("in the field: one station on a phone, by stopwatch and on the bench", async ({ page }) => {
  await page.setViewportSize({ width: 390, height: 844 });
  await learnOn(page);
  await expect(page.getByRole("tab", { name: "One station" })).toHaveAttribute("aria-selected", "true");
  await fill(page, "Went through, L", "52");
  await fill(page, "or the time, typed, s", "30");
  await page.getByRole("button", { name: "Add this reading" }).click();
  await expect(page.getByText(/Together/)).toContainText("104 L/min");
  await page.getByRole("button", { name: "Propose it" }).click();
  await expect(page.getByText(/by stopwatch; \+4\.0 % against what stands/)).toBeVisible();
  await page.getByRole("button", { name: "Take it" }).click();
  await expect(page.getByText(/^Taken/)).toBeVisible();
  await page.getByRole("button", { name: "Station after" }).click();
  await page.getByRole("button", { name: "Learn 2 now, on the bench" }).click();
  await expect(page.getByText(/Proposed: .* rehearsed on the bench/)).toBeVisible({ timeout: 30_000 });
  expect(await page.evaluate(() => document.documentElement.scrollWidth)).toBeLessThanOrEqual(390);
  for (const name of [/^Before/, /^Ledger/, /^Sets/, /^One station/, /^In and out/]) {
    await part(page, name);
    expect(await violations(page, { tags: ["wcag2a", "wcag2aa"] })).toEqual([]);
  }
});

test("sets of the night are learned after the stations, and their ratios taken", async ({ page }) => {
  const id = await learnOn(page, (s) => {
    s.programs[0] = {
      ...(s.programs[0] as SiteFile["programs"][number]),
      maxStationsAtOnce: 2,
      days: { type: "weekdays", days: ["mon", "tue", "wed", "thu", "fri", "sat", "sun"] },
    };
  });
  await part(page, /^Sets/);
  await page.getByRole("button", { name: "Choose what is needed for 100 %" }).click();
  await part(page, /^Before/);
  await page.getByLabel("Pace of the bench").selectOption("0");
  await page.getByRole("button", { name: /^Learn 3 stations/ }).click();
  await expect(page.getByRole("button", { name: /^Take 3 learned/ })).toBeEnabled({ timeout: 30_000 });
  await part(page, /^Sets/);
  await page.getByRole("button", { name: /^Take \d ratios?/ }).click();
  await expect(
    page.getByRole("region", { name: "Learned sets" }).getByRole("cell", { name: "taken" }).first(),
  ).toBeVisible();
  const file = (await (await page.request.get(`/api/sites/${id}/file`)).json()) as SiteFile;
  expect(file.setRatios?.length).toBeGreaterThan(0);
  await screen(page, "Log");
  await view(page, "Revisions");
  await expect(page.getByText(/stations together use/).first()).toBeVisible();
});
