import { expect, test } from "@playwright/test";
import type { SiteFile } from "../core/site-file/schema.ts";
import { smallSite } from "../testing/small-site.ts";
import { screen, signIn, view } from "./people.ts";

test("a new alarm appears on another screen by itself, is read together, worked on and cleared", async ({
  page,
  context,
}) => {
  await signIn(page);
  const name = `Alarm site ${Date.now()}`;
  const file: SiteFile = smallSite((s) => {
    s.site.id = `e2e-alarm-${Date.now()}`;
    s.site.name = name;
    s.programs[0] = {
      ...(s.programs[0] as SiteFile["programs"][number]),
      days: { type: "weekdays", days: ["mon", "tue", "wed", "thu", "fri", "sat", "sun"] },
    };
  });
  const { id } = (await (
    await page.request.post("/api/sites", {
      data: JSON.stringify(file),
      headers: { "content-type": "application/json" },
    })
  ).json()) as { id: string };
  const list = await context.newPage();
  await list.goto("/alarms");
  await expect(list.getByRole("article").first()).toBeVisible();
  await list.getByLabel("Find").fill(name);
  await expect(list.getByText("None like this.")).toBeVisible();

  const taken = await page.request.post(`/api/sites/${id}/bench`, {
    data: {
      date: "2026-07-14",
      faults: [{ at: "+60", kind: "brokenLateral", subjectId: "s1", size: 90 }],
      seed: 1,
      exact: true,
    },
  });
  expect(taken.status()).toBe(200);
  const entry = list.getByRole("article", { name: /Alarm station high/ });
  await expect(entry).toContainText("High flow at station 1 S1");
  await entry.getByLabel("For", { exact: true }).selectOption({ label: "Tolly Brandish" });
  await expect(entry).toContainText("for Tolly Brandish");
  await entry.getByLabel("Note", { exact: true }).fill("wet ground by the gate");
  await entry.getByRole("button", { name: "Add the note" }).click();
  await expect(entry.getByRole("listitem").filter({ hasText: "wet ground by the gate" })).toContainText(
    "Maren Oddsdatter",
  );

  await page.goto(`/sites/${id}/log?view=alarms`);
  const together = page.getByRole("region", { name: "Read together" });
  await expect(together).toContainText("One station high");
  await expect(together).toContainText("Next check:");
  await together.getByRole("button", { name: "Found: note this as the cause" }).first().click();
  const alarm = page.getByRole("article", { name: /Alarm station high/ });
  await expect(alarm.getByLabel("Cause, as found")).toHaveValue("broken lateral or nozzle");
  await alarm.getByRole("button", { name: "Clear and unlock" }).click();
  await expect(alarm).toContainText("cleared");
  await expect(list.getByText("None like this.")).toBeVisible();
  await screen(page, "Learn");
  await expect(page.getByRole("button", { name: "Repaired, 1" })).toBeEnabled();
  await screen(page, "Log");
  await view(page, /^Alarms/);
  await alarm.getByText("Note, picture, open again").click();
  await alarm.getByLabel("Why it is opened again, or a note").fill("it leaks again");
  await alarm.getByRole("button", { name: "Open again and lock" }).click();
  await expect(alarm.getByText("open", { exact: true })).toBeVisible();
  await expect(page.getByText("Locked out: 1 S1")).toBeVisible();
});
