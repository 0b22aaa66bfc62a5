import { fireEvent, screen, waitFor, within } from "@testing-library/react";
import { afterEach, beforeEach, describe, expect, it, vi } from "vitest";
import type { FindingAnswerRequest, MorningsStatus, ToldFinding } from "@/contracts/mornings";
import { renderOnSite } from "@/testing/site-around";
import { smallSite } from "@/testing/small-site";
import { LastNight } from "./last-night";

vi.mock("next/navigation", () => import("@/testing/navigation-here"));
vi.mock("@/components/charts/estimate-chart", () => ({ EstimateChart: () => <p>the chart</p> }));

const reading = (n: number, off: number) => ({
  night: "2026-07-14",
  from: 1784059200 + 600 * n,
  stationIds: ["s1", "s2"],
  readLpm: 210 + off,
  withoutLpm: 210,
  withLpm: 224,
  sdLpm: 1.6,
});
const finding = (more: Partial<ToldFinding> = {}): ToldFinding => ({
  id: "2026-07-14 step s2",
  kind: "step",
  subjectIds: ["s2"],
  since: "2026-07-14T22:00:00+02:00",
  until: null,
  changeLpm: 14,
  sdLpm: 1,
  z: 14,
  certain: true,
  litres: 900,
  named: "2026-07-14",
  litresByNight: { "2026-07-14": 900 },
  evidence: Array.from({ length: 14 }, (_, n) => reading(n, 14)),
  words: {
    head: "a break likely at 2 S2 since Tue 14 Jul, 14 ± 2 L/min, 900 L so far",
    causes: "a broken outlet",
    check: "Run it alone and walk it.",
  },
  answer: null,
  ...more,
});
const status = (more: Partial<MorningsStatus> = {}): MorningsStatus => ({
  night: "2026-07-14",
  whole: true,
  workedAt: "2026-07-15T04:00:00.000Z",
  source: "gateway",
  nights: 5,
  stretches: 120,
  stations: ["s1", "s2", "s3"].map((stationId, i) => ({
    stationId,
    expectedLpm: 100,
    nowLpm: i === 1 ? 114 : 100,
    sdLpm: 1,
    seenAlone: i,
    seenInSets: 4,
  })),
  found: [finding()],
  neverApart: [["s1", "s3"]],
  sets: [],
  people: [{ id: "11111111-1111-4111-8111-111111111111", name: "Odd Brennmoen" }],
  notAlone: null,
  ...more,
});

type Sent = { method: string; body: FindingAnswerRequest & { text?: string } };
/** A server that keeps answers as it is told. */
function server(first: MorningsStatus, refuse?: string): Sent[] {
  const sent: Sent[] = [];
  let now = first;
  const answer = (body: unknown, code = 200): Response =>
    new Response(JSON.stringify(body), { status: code, headers: { "content-type": "application/json" } });
  vi.stubGlobal("fetch", async (path: string, init?: RequestInit) => {
    const method = init?.method ?? "GET";
    if (path.includes("/stations/")) return answer({ mornings: [], marks: [] });
    if (path.includes("/revisions")) return answer({ version: 4, file: smallSite() });
    if (method === "GET") return answer(now);
    const body = JSON.parse(String(init?.body));
    sent.push({ method, body });
    if (refuse) return answer({ error: { code: "badRequest", message: refuse } }, 400);
    if (method === "POST") return answer({ nights: ["2026-07-15"], found: 0 });
    now = {
      ...now,
      found: now.found.map((f) => ({
        ...f,
        answer: {
          answer: body.answer,
          words: body.words,
          forName: body.forUser ? "Odd Brennmoen" : null,
          byName: "Ada Fennimore",
          at: "2026-07-15T06:00:00.000Z",
          grown: false,
        },
      })),
    };
    return answer(now);
  });
  return sent;
}
const open = async (first: MorningsStatus, { refuse, role = "manager" }: { refuse?: string; role?: string } = {}) => {
  const sent = server(first, refuse);
  const drawn = renderOnSite(smallSite(), <LastNight />, { role });
  await waitFor(() => expect(screen.queryByText(/Looking at the nights/)).toBeNull());
  return { ...drawn, sent };
};
beforeEach(() => window.history.replaceState(null, "", "/sites/site/night?view=last"));
afterEach(() => vi.unstubAllGlobals());

describe("before any night was read", () => {
  it("says how nights come here, and takes a log", async () => {
    const { user, sent } = await open(status({ night: null, found: [], stations: [], neverApart: [] }));
    expect(screen.getByText(/No night was read yet/)).toBeInTheDocument();
    const log = new File(["time,flow L/min,station\n"], "log.csv", { type: "text/csv" });
    await user.upload(screen.getByLabelText("A recorder's log, CSV"), log);
    expect(await screen.findByText("1 night taken in.")).toBeInTheDocument();
    expect(sent).toEqual([{ method: "POST", body: { text: "time,flow L/min,station\n" } }]);
  });
  it("refuses what is too large before it is sent, and says what the server refuses", async () => {
    const { sent } = await open(status({ night: null }), { refuse: "Line 3: A flow is no figure, or under 0." });
    const large = new File(["x"], "year.csv");
    Object.defineProperty(large, "size", { value: 9_000_000 });
    fireEvent.change(screen.getByLabelText("A recorder's log, CSV"), { target: { files: [large] } });
    expect(await screen.findByText(/year.csv is larger than 8 MB/)).toBeInTheDocument();
    expect(sent).toEqual([]);
    fireEvent.change(screen.getByLabelText("A recorder's log, CSV"), { target: { files: [new File(["x"], "a.csv")] } });
    expect(await screen.findByText(/Line 3: A flow is no figure/)).toBeInTheDocument();
  });
});

describe("what nights say", () => {
  it("stands with its readings, the stations' flows by the nights, and who is never apart", async () => {
    const { user } = await open(status());
    const said = screen.getByRole("article", { name: /^a break likely at 2 S2/ });
    expect(within(said).getByText(/Likely a broken outlet\. Run it alone and walk it\./)).toBeInTheDocument();
    expect(within(said).getAllByRole("row")).toHaveLength(13);
    await user.click(within(said).getByRole("button", { name: "2 earlier ones" }));
    expect(within(said).getAllByRole("row")).toHaveLength(15);
    expect(screen.getByText("1 S1 and 3 S3")).toBeInTheDocument();
    const row = within(screen.getByRole("table", { name: "Stations by the nights" }))
      .getByText("2 S2")
      .closest("tr");
    expect(row).toHaveTextContent("114.0 ± 2.0");
    expect(row).toHaveTextContent("+14.0");
    expect(row).toHaveAttribute("aria-selected", "true");
    await user.click(screen.getByText("3 S3"));
    expect(screen.getByText(/It always ran with 1 S1/)).toBeInTheDocument();
  });
  it("that is over, or not certain, is told so", async () => {
    await open(
      status({
        found: [
          finding({ id: "a", certain: false, subjectIds: ["s1", "s2"] }),
          finding({ id: "b", until: "2026-07-13T22:00:00+02:00" }),
        ],
      }),
    );
    expect(screen.getByText(/fit each of these nearly as well/)).toBeInTheDocument();
    expect(screen.getByText("Over:")).toBeInTheDocument();
    expect(screen.getAllByRole("button", { name: "Somebody goes there" })).toHaveLength(1);
    expect(screen.queryByRole("button", { name: "Take the new figure" })).toBeNull();
  });
  it("that is undecided says what would tell which, and that is what is run", async () => {
    const runs = [{ stationId: "s3", seconds: 240, litres: 400 }];
    const undecided = (id: string, probe: ToldFinding["probe"]): ToldFinding =>
      finding({ id, subjectIds: ["s2", "s3"], ...(probe === undefined ? {} : { probe }) });
    const { user } = await open(
      status({
        found: [
          undecided("a", { runs, seconds: 240, litres: 400 }),
          undecided("b", { runs: [], seconds: 0, litres: 0 }),
          undecided("c", null),
          undecided("d", undefined),
        ],
      }),
    );
    for (const words of [
      /To tell which, 3 S3 by itself for 4 min and 400 L is enough\./,
      /The next night's own readings are likely to tell which\./,
      /No running of single stations would tell which/,
      /A night in which they run apart tells which\./,
    ])
      expect(screen.getByText(words)).toBeInTheDocument();
    expect(screen.getAllByRole("button", { name: "Run them alone tonight" })).toHaveLength(3);
    await user.click(screen.getByRole("button", { name: "Run it alone tonight" }));
    expect(screen.getByText(/the controllers learn 3 S3, by itself/)).toBeInTheDocument();
  });
  it("nothing is said to be so", async () => {
    await open(status({ found: [] }));
    expect(screen.getByText(/Nothing has changed by these readings/)).toBeInTheDocument();
  });
});

describe("an answer", () => {
  it("somebody goes there: who, and what to know", async () => {
    const { user, sent } = await open(status());
    await user.click(screen.getByRole("button", { name: "Somebody goes there" }));
    await user.selectOptions(screen.getByLabelText("Who"), "Odd Brennmoen");
    await user.type(screen.getByLabelText("What to know, optional"), "by the gate");
    await user.click(screen.getByRole("button", { name: "Note the visit" }));
    expect(await screen.findByText(/somebody goes there, Odd Brennmoen: “by the gate”/)).toBeInTheDocument();
    expect(sent[0]?.body).toMatchObject({ findingId: "2026-07-14 step s2", answer: "visit", words: "by the gate" });
  });
  it("run alone tonight is from the next time that hour comes on, with the usual caution, once however often it is pressed", async () => {
    const { user, sent } = await open(status(), { refuse: "The gateway is silent now." });
    await user.click(screen.getByRole("button", { name: "Run it alone tonight" }));
    expect(screen.getByText("Caution.")).toBeInTheDocument();
    for (const _ of [1, 2]) await user.click(screen.getByRole("button", { name: "Have it run" }));
    expect((await screen.findAllByText("The gateway is silent now."))[0]).toBeInTheDocument();
    const [one, two] = sent.map((s) => s.body);
    expect(one?.orderId).toBe(two?.orderId);
    const from = Date.parse(one?.from ?? "");
    expect(from).toBeGreaterThan(Date.now());
    expect(from).toBeLessThan(Date.now() + 86_400_000);
  });
  it("is not offered there where no controller takes it, and says why", async () => {
    await open(status({ notAlone: "No gateway of this site has been heard yet." }));
    expect(screen.getByRole("button", { name: "Run it alone tonight" })).toBeDisabled();
    expect(screen.getByText(/Not to be run alone from here: No gateway/)).toBeInTheDocument();
  });
  it("the new figure becomes the revision in force", async () => {
    const { user, draft } = await open(status());
    await user.click(screen.getByRole("button", { name: "Take the new figure" }));
    await waitFor(() => expect(draft.store.getState().version).toBe(4));
    expect(screen.getByText(/the new figure was taken/)).toBeInTheDocument();
  });
  it("left as it is says why", async () => {
    const { user, sent } = await open(status());
    await user.click(screen.getByRole("button", { name: "Leave it, with a note" }));
    const leave = screen.getByRole("button", { name: "Leave it" });
    await user.click(leave);
    expect(screen.getByText(/Say why, for whoever looks/)).toBeInTheDocument();
    expect(sent).toEqual([]);
    await user.type(screen.getByLabelText("Why"), "the new drip line");
    await user.click(leave);
    await waitFor(() => expect(sent[0]?.body).toMatchObject({ answer: "left", words: "the new drip line" }));
  });
  it("is not for who only looks", async () => {
    await open(status(), { role: "viewer" });
    expect(screen.queryByRole("button", { name: "Somebody goes there" })).toBeNull();
    expect(screen.queryByRole("button", { name: "Bring a recorder's log" })).toBeNull();
  });
});
