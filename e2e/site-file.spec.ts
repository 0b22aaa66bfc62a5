import { readFileSync } from "node:fs";
import { join } from "node:path";
import { expect, test } from "@playwright/test";
import { parseSiteText, writeSiteText } from "../core/site-file/parse-site.ts";
import { signIn } from "./people.ts";

test("a site file goes in and comes out byte for byte, and a foreign one is refused whole", async ({ page }) => {
  const source = JSON.parse(readFileSync(join(import.meta.dirname, "../cases/plan-two-pocs/site.json"), "utf8"));
  source.site.id = `import-${Date.now()}`;
  source.site.name = source.site.id;
  const parsed = parseSiteText(JSON.stringify(source));
  if (!parsed.ok) throw new Error("the case is not a site file");
  await signIn(page);
  const choose = async (name: string, text: string | Buffer) =>
    page
      .getByLabel("Site file to import")
      .setInputFiles({ name, mimeType: "application/json", buffer: Buffer.from(text) });

  await choose("cut.json", JSON.stringify(source).slice(0, 500));
  await expect(page.getByRole("alert").filter({ hasText: "not a whole JSON document" })).toBeVisible();
  await choose("other.json", '{"hello":"world"}');
  await expect(page.getByRole("alert").filter({ hasText: "not a Presa site file" })).toBeVisible();
  const loop = structuredClone(source);
  loop.mainlines[0].feedIds = ["m2"];
  loop.mainlines[1].feedIds = ["m1"];
  await choose("loop.json", JSON.stringify(loop));
  await expect(page.getByRole("alert").filter({ hasText: "run in a circle" })).toBeVisible();
  await choose("huge.json", Buffer.alloc(20 * 1024 * 1024, 32));
  await expect(page.getByRole("alert").filter({ hasText: "20 MB" })).toBeVisible();
  await expect(page.getByRole("link", { name: source.site.name })).toHaveCount(0);

  await choose("site.json", JSON.stringify(source));
  await expect(page.getByRole("heading", { name: source.site.name, level: 1 })).toBeVisible();
  await page.getByRole("link", { name: /^Log/ }).click();
  const [download] = await Promise.all([
    page.waitForEvent("download"),
    page.getByRole("link", { name: "Export the site file" }).click(),
  ]);
  expect(readFileSync(await download.path(), "utf8")).toBe(writeSiteText(parsed.site));
});
