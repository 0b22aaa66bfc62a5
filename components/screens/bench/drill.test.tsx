import { screen, waitFor, within } from "@testing-library/react";
import { afterEach, describe, expect, it, vi } from "vitest";
import { beginDrill, judgeDrill } from "@/core/drill/drill";
import type { SiteFile } from "@/core/site-file/schema";
import { renderOnSite } from "@/testing/site-around";
import { smallSite } from "@/testing/small-site";
import { DrillPanel } from "./drill-panel";

vi.mock("@/components/draft/compute", () => import("@/testing/compute-here"));
afterEach(() => {
  vi.restoreAllMocks();
  vi.unstubAllGlobals();
});

const DATE = "2026-07-14";
const SEED = 7;
type Sent = { seed: number; steps: Parameters<typeof judgeDrill>[1]; named: Parameters<typeof judgeDrill>[2] };
let sites = 0;
/** A drill whose hidden cause is known, with a server that judges it as the real one does, or refuses. */
function drill({ file = smallSite(), refuse }: { file?: SiteFile; refuse?: string } = {}) {
  vi.spyOn(Math, "random").mockReturnValue(SEED / 1e9);
  const hidden = beginDrill(file, DATE, SEED);
  const sent: Sent[] = [];
  const kept: unknown[] = [];
  vi.stubGlobal("fetch", async (_path: string, init?: RequestInit) => {
    const json = (body: unknown, status = 200): Response =>
      new Response(JSON.stringify(body), { status, headers: { "content-type": "application/json" } });
    if (!init?.body) return json({ drills: kept, people: kept.length > 0 ? [ADA] : [] });
    const asked = JSON.parse(String(init.body)) as Sent;
    sent.push(asked);
    if (refuse) return json({ error: { code: "conflict", message: refuse } }, 409);
    const again = beginDrill(file, DATE, asked.seed);
    if (!again) throw new Error("nothing to find");
    const outcome = judgeDrill(again, asked.steps, asked.named);
    kept.push({
      id: "d1",
      doneAt: "2026-07-15T08:30:00Z",
      userName: "Ada Fennimore",
      hidden: outcome.hidden,
      named: outcome.named,
      namedRight: outcome.right,
      checks: asked.steps.length,
      seconds: outcome.seconds,
      lostL: outcome.lostL,
      usedL: 0,
    });
    return json(outcome);
  });
  const view = renderOnSite(file, <DrillPanel date={DATE} />, { siteId: `drill${sites++}` });
  const begin = async (): Promise<void> => {
    await view.user.click(await screen.findByRole("button", { name: "Begin a drill" }));
    await screen.findByRole("region", { name: "Notebook" });
  };
  return { ...view, hidden, sent, begin };
}
const ADA = { userName: "Ada Fennimore", drills: 1, right: 1, checks: 1, minutes: 2, lostL: 0 };
const checks = (): HTMLElement[] =>
  within(screen.getByRole("table", { name: "Checks made" }))
    .getAllByRole("row")
    .slice(1);
const name = async (user: ReturnType<typeof drill>["user"], kind: string, subject: string): Promise<void> => {
  const form = within(screen.getByRole("form", { name: "Name the cause" }));
  await user.selectOptions(form.getByRole("combobox", { name: "It is" }), kind);
  await user.selectOptions(form.getByRole("combobox", { name: "on" }), subject);
  await user.click(form.getByRole("button", { name: "Name it" }));
};

describe("a drill on the bench", () => {
  it("begins all shut, and what is opened is what is read with", async () => {
    const { user, begin } = drill();
    await begin();
    const stations = within(screen.getByRole("group", { name: "Stations" }));
    expect(stations.getAllByRole("button").map((b) => b.getAttribute("aria-pressed"))).toEqual([
      "false",
      "false",
      "false",
    ]);
    expect(checks()[0]).toHaveTextContent("Nothing tried yet.");
    await user.click(screen.getByRole("button", { name: /^Read the sensors/ }));
    expect(checks()[0]).toHaveTextContent("all stations shut; master valves shut");
    await user.click(within(screen.getByRole("group", { name: "Master valves" })).getByRole("button"));
    await user.click(stations.getByRole("button", { name: "2 S2" }));
    await user.click(screen.getByRole("button", { name: /^Read the sensors/ }));
    expect(checks()[1]).toHaveTextContent("station 2 alone; master valves open");
    await user.click(screen.getByRole("button", { name: "Shut everything" }));
    expect(stations.getByRole("button", { name: "2 S2" })).toHaveAttribute("aria-pressed", "false");
  });
  it("each thing asked costs its minutes; the notebook adds them up", async () => {
    const { user, begin } = drill();
    await begin();
    const notebook = screen.getByRole("region", { name: "Notebook" });
    await user.click(screen.getByRole("button", { name: /^Time the meter/ }));
    expect(notebook).toHaveTextContent(/so far 7 min/);
    await user.click(screen.getByRole("button", { name: /^Read a gauge/ }));
    expect(notebook).toHaveTextContent(/so far 13 min/);
    await user.selectOptions(screen.getByRole("combobox", { name: "Place" }), "station 3 S3");
    await user.click(screen.getByRole("button", { name: /^Go and look/ }));
    expect(checks().map((r) => within(r).getAllByRole("cell")[1]?.textContent)).toEqual([
      expect.stringMatching(/^time the meter at/),
      expect.stringMatching(/^gauge at/),
      expect.stringMatching(/^look at station 3 S3/),
    ]);
  });
  it("named rightly says so, shows how many causes each check left, and keeps it under the person's name", async () => {
    const { user, begin, hidden, sent } = drill();
    await begin();
    if (!hidden) throw new Error("nothing to find");
    await user.click(screen.getByRole("button", { name: /^Read the sensors/ }));
    const { kind, subjectId } = hidden.hidden;
    const form = within(screen.getByRole("form", { name: "Name the cause" }));
    await user.selectOptions(form.getByRole("combobox", { name: "It is" }), kind);
    await user.selectOptions(form.getByRole("combobox", { name: "on" }), subjectId);
    await user.click(form.getByRole("button", { name: "Name it" }));
    const outcome = await screen.findByRole("region", { name: "Outcome" });
    expect(outcome).toHaveTextContent(/^Right/);
    expect(sent[0]).toMatchObject({ seed: SEED, named: { kind, subjectId }, steps: [{ check: { type: "read" } }] });
    expect(await screen.findByText(/^That left (one|\d+) cause/)).toBeInTheDocument();
    expect(await screen.findByRole("table", { name: "Drills by person" })).toHaveTextContent("Ada Fennimore");
    // 08:30 UTC is half past ten where the site is.
    expect(screen.getByRole("table", { name: "Drills on this site" })).toHaveTextContent("2026-07-15 10:30");
    expect(screen.getByRole("button", { name: "Another drill" })).toBeEnabled();
  }, 20_000);
  it("named wrongly says what it was instead", async () => {
    const { user, begin, hidden } = drill();
    await begin();
    const wrong = hidden?.hidden.subjectId === "s1" ? "station 2 S2" : "station 1 S1";
    await name(user, "station clogged", wrong);
    const outcome = await screen.findByRole("region", { name: "Outcome" });
    expect(outcome).toHaveTextContent(
      /^Not that You named station clogged.*; it was|^Right It was .*; nothing on this site tells it/,
    );
  }, 20_000);
  it("that the server refuses says why and goes on; the next begins without that word", async () => {
    const { user, begin } = drill({ refuse: "The site was saved since. Begin another drill." });
    await begin();
    await name(user, "station clogged", "station 1 S1");
    expect(await screen.findByRole("alert")).toHaveTextContent("The site was saved since. Begin another drill.");
    expect(screen.queryByRole("region", { name: "Outcome" })).toBeNull();
    await user.click(screen.getByRole("button", { name: "Give this one up, begin another" }));
    await waitFor(() => expect(screen.queryByRole("alert")).toBeNull());
  });
  it("warns before a pump runs against a closed valve", async () => {
    const { user, begin } = drill({
      file: smallSite((s) => {
        s.pocs[0]?.devices.unshift({
          id: "pump",
          kind: "pump",
          name: "Booster",
          curve: [
            { flowLpm: 0, headM: 50 },
            { flowLpm: 300, headM: 30 },
          ],
        } as never);
      }),
    });
    await begin();
    await user.click(within(screen.getByRole("group", { name: "Pumps" })).getByRole("button"));
    expect(screen.getByText(/A pump must not run against a closed valve/)).toBeInTheDocument();
    await user.click(within(screen.getByRole("group", { name: "Stations" })).getByRole("button", { name: "1 S1" }));
    expect(screen.queryByText(/A pump must not run against a closed valve/)).toBeNull();
  });
});
