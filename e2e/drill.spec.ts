import { expect, test } from "@playwright/test";
import { subjectName } from "../core/judge/alarm-words.ts";
import { faultWords } from "../core/bench/faults/kinds.ts";
import { beginDrill } from "../core/drill/drill.ts";
import { parseSiteOrThrow } from "../core/site-file/parse-site.ts";
import { readDate } from "../components/kit/dates.ts";
import { screen, signIn, view, VIEWER, violations } from "./people.ts";

test("a drill: something hidden is looked for by opening and reading, named, and what came of it is kept by person", async ({
  page,
}) => {
  await page.addInitScript(() => {
    Math.random = () => 0.3141592;
  });
  await signIn(page, VIEWER);
  await page
    .getByRole("link", { name: /Hollin Bank/ })
    .first()
    .click();
  await screen(page, "Bench");
  const siteId = /sites\/([0-9a-f-]{36})/.exec(page.url())?.[1];
  const file = parseSiteOrThrow(await (await page.request.get(`/api/sites/${siteId}/file`)).json());
  await view(page, "Drill");
  const written = await page.getByLabel("Night of", { exact: true }).inputValue();
  const date = readDate(written, file.site.units) ?? "";
  const drill = beginDrill(file, date, Math.floor(0.3141592 * 1e9));
  if (!drill) throw new Error("nothing to find");
  await page.getByRole("button", { name: "Begin a drill" }).click();
  const notebook = page.getByRole("region", { name: "Notebook" });
  await expect(notebook).toContainText("In the night, at");
  await page.getByRole("group", { name: "Master valves" }).getByRole("button").first().click();
  await page.getByRole("button", { name: "Read the sensors" }).click();
  await page.getByRole("group", { name: "Stations" }).getByRole("button").first().click();
  await page.getByRole("button", { name: "Go and look" }).click();
  await page.getByRole("button", { name: "Time the meter" }).click();
  await expect(notebook.getByRole("row")).toHaveCount(4);
  await expect(notebook).toContainText("so far 16 min");
  const name = page.getByRole("form", { name: "Name the cause" });
  await name.getByLabel("It is").selectOption({ label: faultWords(drill.hidden.kind) });
  await name.getByLabel("on", { exact: true }).selectOption({ label: subjectName(file, drill.hidden.subjectId) });
  await name.getByRole("button", { name: "Name it" }).click();
  const outcome = page.getByRole("region", { name: "Outcome" });
  await expect(outcome).toContainText("Right");
  await expect(outcome).toContainText(/short way|no check was needed/, { timeout: 20_000 });
  await expect(notebook.getByRole("columnheader", { name: "Causes left" })).toBeVisible();
  await expect(
    page.getByRole("table", { name: "Drills by person" }).getByRole("row", { name: /Wim Castellane/ }),
  ).toBeVisible();
  await expect(page.getByRole("table", { name: "Drills on this site" }).getByRole("row").nth(1)).toContainText("right");
  expect(await violations(page)).toEqual([]);
});
