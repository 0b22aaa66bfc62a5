import { expect, test } from "@playwright/test";
import { MANAGER, save, signIn, STRANGER, violations } from "./people.ts";

/** A sheet of two pages, as a drawing office sends it. */
const SHEET = `<body style="margin:0"><p style="height:95vh;break-after:page">Cover</p>
  <svg width="600" height="400"><rect x="40" y="40" width="300" height="200" fill="none" stroke="black"/></svg>`;

test("a photograph on a station, a page of a PDF as the plan, a pin that leads to its piece; another organisation sees none of it", async ({
  page,
  browser,
  baseURL,
}) => {
  const office = await (await browser.newContext()).newPage();
  await office.setContent(SHEET);
  const pdf = await office.pdf({ width: "800px", height: "500px" });
  const photo = await office.screenshot();
  await office.context().close();
  await signIn(page, MANAGER);
  await page.getByRole("link", { name: "Sallow Court housing" }).first().click();
  await page.waitForURL(/sites\/[0-9a-f-]+\//);
  const site = /sites\/([0-9a-f-]+)\//.exec(page.url())?.[1] as string;

  await page.goto(`/sites/${site}/stations?aids=on`);
  const aids = page.getByRole("complementary", { name: "Aids", exact: true });
  await aids.getByLabel("A photograph").setInputFiles({ name: "valve box.png", mimeType: "image/png", buffer: photo });
  await aids.getByLabel("What valve box.jpg shows").fill("Lid by the hedge");
  await page.keyboard.press("Tab");
  await expect(aids.getByRole("img", { name: "Lid by the hedge" })).toBeVisible();
  await save(page);

  await page.goto(`/sites/${site}/waterworks?view=plan`);
  await page
    .getByLabel("A plan of the site")
    .setInputFiles({ name: "sheets.pdf", mimeType: "application/pdf", buffer: pdf });
  await page.getByRole("textbox", { name: "Page" }).fill("2");
  await page.getByRole("textbox", { name: "Page" }).press("Tab");
  await page.getByRole("button", { name: "Take this page" }).click();
  const plan = page.getByRole("group", { name: "Plan sheets, page 2" });
  await expect(plan.getByRole("img")).toBeVisible();
  const pieces = page.getByRole("list", { name: "Pieces" });
  await pieces.getByRole("button", { name: /^3 / }).click();
  await plan.getByRole("img").click({ position: { x: 120, y: 80 } });
  await expect(plan.getByRole("button", { name: /^Station 3 / })).toBeVisible();
  await pieces.getByRole("button", { name: /^Street main/ }).click();
  await page.getByRole("button", { name: "Pin in the middle" }).click();
  await save(page);
  expect(await violations(page)).toEqual([]);

  await page.reload();
  await expect(plan.getByRole("img")).toBeVisible();
  const pin = plan.getByRole("button", { name: /^Station 3 / });
  await pin.focus();
  await page.keyboard.press("Enter");
  await page.keyboard.press("ArrowRight");
  await expect(page.getByText(/pin of 3 .* moved/)).toBeVisible();
  await page.getByRole("button", { name: "Discard all" }).click();
  await pin.click();
  await page.getByRole("link", { name: "Open it" }).click();
  await expect(page).toHaveURL(/stations\?at=/);

  const { file } = (await (await page.request.get(`/api/sites/${site}/revisions`)).json()) as {
    file: { plans: { id: string }[]; stations: { files?: { id: string }[] }[] };
  };
  const ids = [file.plans[0]?.id, file.stations[0]?.files?.[0]?.id];
  for (const id of ids) {
    const kept = await page.request.get(`/api/sites/${site}/files/${id}`);
    expect(kept.headers()["content-type"]).toBe("image/jpeg");
    const etag = kept.headers()["etag"] as string;
    const again = await page.request.get(`/api/sites/${site}/files/${id}`, { headers: { "if-none-match": etag } });
    expect(again.status()).toBe(304);
  }
  const other = await browser.newContext({ baseURL: baseURL as string });
  const theirs = await other.newPage();
  await signIn(theirs, STRANGER);
  for (const id of ids) expect((await other.request.get(`/api/sites/${site}/files/${id}`)).status()).toBe(404);
  await other.close();
});
