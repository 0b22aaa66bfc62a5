import { expect, test } from "@playwright/test";
import pg from "pg";
import { signIn } from "./people.ts";

const TECHNICIAN = "tolly@presa.example";

type Caught = { subject: string; to: string[]; text: string };
const caught = async (): Promise<Caught[]> =>
  (await fetch(`${process.env["CATCHER_PAGE"]}/letters`)).json() as Promise<Caught[]>;

/** An alarm as a recorder enters it, raised so long ago. */
async function raise(minutesAgo: number, message: string): Promise<void> {
  const client = new pg.Client({ connectionString: process.env["DATABASE_URL"] });
  await client.connect();
  try {
    await client.query(
      `insert into alarm (organisation_id, site_id, at, kind, subject_id, measured_lpm, expected_lpm, message, locked)
       select s.organisation_id, s.id, now() - $1 * interval '1 minute', 'stationHigh', e.element_id, 140, 100, $2, '{}'
       from site s join element e on e.site_id = s.id and e.kind = 'station' where s.name like 'Sallow Court%' limit 1`,
      [minutesAgo, message],
    );
    await client.query(
      `select pg_notify('presa_alarms_' || replace(organisation_id::text, '-', '_'), '{"type":"alarms"}') from alarm where message = $1`,
      [message],
    );
  } finally {
    await client.end();
  }
}

test("an alarm that nobody acknowledges is escalated into the mail catcher, once", async ({ page }) => {
  test.setTimeout(180_000);
  await signIn(page, TECHNICIAN);
  await page.goto("/account");
  await page.getByRole("button", { name: "Choose what you are told" }).click();
  await page.getByRole("checkbox", { name: "new alarms" }).uncheck();
  await page.getByRole("checkbox", { name: /nobody acknowledges/ }).check();
  await page.getByLabel("within, min").fill("1");
  await page.getByRole("region", { name: "What you are told" }).getByRole("button", { name: "Keep" }).click();
  await expect(
    page.getByRole("region", { name: "What you are told" }).getByRole("button", { name: "Keep" }),
  ).toBeDisabled();
  await page.getByRole("button", { name: "Send me a letter to try" }).click();
  await page.getByText("The newest letters to you").click();
  await expect(page.getByRole("row", { name: /A letter to try/ }).first()).toContainText("sent", { timeout: 30_000 });

  const message = `Nobody looks at this ${Date.now()}`;
  await raise(0, message);
  const escalated = async () => (await caught()).filter((l) => l.text.includes(message));
  expect(await escalated()).toEqual([]);
  await expect.poll(async () => (await escalated()).length, { timeout: 110_000, intervals: [2000] }).toBe(1);
  const [letter] = await escalated();
  expect(letter?.subject).toBe("Nobody has acknowledged 1 alarm at Sallow Court housing");
  expect(letter?.to).toEqual([TECHNICIAN]);
  const link = /https?:\S+\/log\S+/.exec(letter?.text ?? "")?.[0] as string;
  await page.goto(new URL(link).pathname + new URL(link).search);
  const alarm = page.getByRole("article").filter({ hasText: message });
  await alarm.getByRole("button", { name: "Acknowledge" }).click();
  await expect(alarm.getByText("acknowledged", { exact: true })).toBeVisible();
  // The teller has looked again meanwhile, and more than once.
  await page.waitForTimeout(45_000);
  expect(await escalated()).toHaveLength(1);
});

test("a new alarm is told on whatever page is open, with a way to it", async ({ page }) => {
  await signIn(page, TECHNICIAN);
  // The page knows what stands open before there is news; what the page before it was still asking is not that.
  const looked = page.waitForResponse(
    (r) => r.url().includes("/api/alarms?state=open") && r.frame().url().endsWith("/library"),
  );
  await page.goto("/library");
  await looked;
  const message = `Seen anywhere ${Date.now()}`;
  await raise(0, message);
  const toast = page.getByRole("listitem").filter({ hasText: message });
  await expect(toast).toContainText("Sallow Court housing");
  await toast.getByRole("button", { name: "See it" }).click();
  await expect(page.getByRole("article").filter({ hasText: message })).toBeVisible();
});
