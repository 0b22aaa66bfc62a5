import "fake-indexeddb/auto";
import { act, fireEvent, screen, waitFor, within } from "@testing-library/react";
import { afterEach, beforeEach, describe, expect, it, vi } from "vitest";
import type { Along } from "@/contracts/along";
import type { Alarm } from "@/contracts/alarms";
import type { FieldEntry } from "@/contracts/entries";
import { USUAL_CHECKLISTS } from "@/core/visits/checklists";
import { USUAL_RULES } from "@/core/visits/duties";
import { MESSAGES } from "@/messages/messages";
import { refused, type Sent, server, show } from "@/testing/page-server";
import { smallSite } from "@/testing/small-site";
import { FieldApp } from "./field-app";
import { usePhone } from "./store/phone";
import { wipePhone } from "./store/phone-db";
import { withWaiting } from "./store/with-waiting";

vi.mock("next/navigation", () => import("@/testing/navigation-here"));

const NOW = "2026-07-15T12:00:00.000Z";
const alarm = {
  id: "a1",
  siteId: "site",
  siteName: "Small",
  at: NOW,
  kind: "stationHigh",
  subjectId: "s1",
  measuredLpm: 140,
  expectedLpm: 100,
  message: "",
  locked: ["s1"],
  state: "open",
  cause: null,
  rehearsed: false,
} as unknown as Alarm;
const pack = (more: Partial<Along> = {}): Along => ({
  shape: 1,
  siteId: "site",
  at: NOW,
  version: 1,
  file: smallSite((s) => {
    s.stations[0] = { ...(s.stations[0] as (typeof s.stations)[number]), lockedOut: true };
    s.pocs[0]?.devices.push({ id: "bf", kind: "backflow", name: "Vault" });
  }),
  role: "technician",
  alarms: [alarm],
  entries: [],
  people: [{ id: "maren", name: "Maren" }],
  visits: [],
  setup: { checklists: [...USUAL_CHECKLISTS], duties: USUAL_RULES, version: 0 },
  walks: [],
  todos: [],
  due: [],
  gateway: null,
  ...more,
});

/** A phone in somebody's hand, and an office that answers; `away`: it does not. */
function field(path: string, more: Partial<Along> = {}, answer: (sent: Sent) => unknown = () => null) {
  window.history.replaceState(null, "", path);
  const away = { now: false };
  const entered: FieldEntry[] = [];
  server((sent) => {
    if (away.now) throw new TypeError("no way through");
    const own = answer(sent);
    if (own) return own;
    if (sent.path === "/api/account") return { id: "tolly", name: "Tolly", role: "technician" };
    // What it was sent it holds from then on.
    if (sent.path.endsWith("/along"))
      return withWaiting(
        pack(more),
        entered.map((e, seq) => ({ ...e, seq, siteId: "site", subject: "", state: "sent" })),
        "Tolly",
      );
    if (sent.path.endsWith("/entries")) {
      entered.push(sent.body as FieldEntry);
      return null;
    }
    if (sent.path === "/api/rounds/choices") return { choices: [{ kind: "crew", value: "crew North", name: "North" }] };
    if (sent.path.startsWith("/api/rounds"))
      return { rows: [{ id: "site", name: "Small", openAlarms: 1 }], found: 1, all: 1 };
    return {};
  });
  return { user: show(<FieldApp />), entered, away };
}
const kinds = (entered: FieldEntry[]): string[] => entered.map((e) => e.what.kind);
const press = async (user: ReturnType<typeof field>["user"], name: string | RegExp): Promise<void> =>
  user.click(await screen.findByRole("button", { name }));

beforeEach(() => {
  localStorage.clear();
  window.scrollTo = () => {};
  vi.stubGlobal(
    "BroadcastChannel",
    class {
      onmessage = null;
      postMessage() {}
      close() {}
    },
  );
});
afterEach(async () => {
  await act(async () => {
    await usePhone
      .getState()
      .signOut()
      .catch(() => {});
    usePhone.setState({ person: undefined, door: null, online: true, sites: [], waiting: [], language: "en" });
  });
  await wipePhone("tolly");
  // biome-ignore lint/suspicious/noDocumentCookie: as the page does it
  document.cookie = "presa_language=; path=/; max-age=0";
  vi.unstubAllGlobals();
});

describe("the field", () => {
  it("takes a site along, shows what is wrong there, and where the water is shut off", async () => {
    const { user } = field("/field", {
      due: [
        { duty: "backflow", subjectId: "bf", name: "Vault", last: null, on: "2020-05-01" },
        { duty: "battery", subjectId: "ctl", name: "Controller", last: null, on: "2999-01-01" },
      ],
    });
    await user.click(await screen.findByRole("switch", { name: "Take along: Small" }));
    expect(await screen.findByText(/on this phone as of/)).toBeInTheDocument();
    await press(user, /^Small/);
    expect(await screen.findByText("1 S1")).toBeInTheDocument();
    expect(screen.getByText("backflow test, Vault: overdue since 1 May 2020")).toBeInTheDocument();
    expect(screen.queryByText(/backup battery/)).toBeNull();
    expect(screen.getByText("No gateway is heard here.")).toBeInTheDocument();
    expect(screen.getByText("either valve of the backflow preventer, or the valve before it")).toBeInTheDocument();
    expect(screen.getByText(/shut while it has no power/)).toBeInTheDocument();
  });
  it("takes a crew's whole round along in one press", async () => {
    const asked: string[] = [];
    const { user } = field("/field", {}, ({ path }) => {
      asked.push(path);
      return null;
    });
    await user.selectOptions(await screen.findByLabelText("Whose round"), "North");
    await press(user, "Take this 1 along");
    expect(await screen.findByRole("heading", { name: "Taken along" })).toBeInTheDocument();
    expect(asked).toContain("/api/rounds?find=&sort=need&within=crew+North");
    expect(asked).toContain("/api/sites/site/along");
  });
  it("asks whoever has not signed in yet to do so once, with a way back", async () => {
    field("/field", {}, ({ path }) => (path === "/api/account" ? refused(401, "notSignedIn", "Sign in first.") : null));
    expect(await screen.findByRole("link", { name: "Sign in" })).toHaveAttribute("href", "/sign-in?to=/field");
  });
  it("says of a site that is not theirs that it is not, and offers the others", async () => {
    const { user } = field("/field?site=site", {}, ({ path }) =>
      path.endsWith("/along") ? refused(404, "notFound", "There is no such site.") : null,
    );
    expect(await screen.findByText(MESSAGES.en.frame.notYours)).toBeInTheDocument();
    await press(user, "All sites");
    expect(await screen.findByText("Sites", { selector: "h1" })).toBeInTheDocument();
  });
  it("lets who only looks look, and enter nothing", async () => {
    field("/field?site=site&job=alarms", { role: "viewer" });
    expect(await screen.findByText("You may look but not enter anything here.")).toBeInTheDocument();
    expect(screen.queryByRole("button", { name: "Acknowledge" })).toBeNull();
  });
});

describe("a walk", () => {
  it("goes from station to station without an office, is left and taken up, and is sent in its order", async () => {
    const { user, entered, away } = field("/field?site=site&job=walk");
    await screen.findByRole("button", { name: /Begin the walk/ });
    away.now = true;
    await press(user, /Begin the walk/);
    const card = () => screen.findByRole("article", { name: /S1|S2|S3/ });
    expect(within(await card()).getByText("1")).toBeInTheDocument();
    const typed = await screen.findByLabelText("Read, if you have it, L/min");
    await user.type(typed, "131{Enter}");
    expect(await screen.findByText("+31 %")).toBeInTheDocument();
    expect(screen.getByRole("img", { name: /Read 131 L\/min: too high/ })).toBeInTheDocument();
    await press(user, "Problem");
    expect(screen.getByRole("button", { name: "Note the problem" })).toBeDisabled();
    await press(user, "leak");
    await user.type(screen.getByLabelText("Note"), "by the gate");
    // Somebody looks at the alarms, and comes back: nothing of it is lost.
    await press(user, /^Alarms/);
    await press(user, "Walk");
    expect(await screen.findByLabelText("Note")).toHaveValue("by the gate");
    await user.selectOptions(screen.getByLabelText("Who sees to it"), "Maren");
    await press(user, "in a week");
    await press(user, "Note the problem");
    await press(user, "Skip");
    await press(user, "All stations");
    const list = await screen.findByRole("list", { name: "All stations" });
    expect(
      within(list)
        .getAllByRole("button")
        .map((b) => b.textContent),
    ).toEqual(["1 S1leak", "2 S2skipped", "3 S3not yet"]);
    await user.click(within(list).getByRole("button", { name: /S3/ }));
    await press(user, "Fine, last one");
    expect(await screen.findByText(/3 of 3 stations looked at: 1 fine, 1 problem, 1 skipped/)).toBeInTheDocument();
    expect(screen.getByText("1 S1: by the gate")).toBeInTheDocument();
    await press(user, "End the walk");
    expect(await screen.findByRole("button", { name: /5 waiting to be sent/ })).toBeInTheDocument();
    expect(screen.getByText(/Last walk here/)).toBeInTheDocument();
    away.now = false;
    await act(() => usePhone.getState().contact());
    expect(kinds(entered)).toEqual(["walkBegin", "walkLook", "walkLook", "walkLook", "walkEnd"]);
    expect(entered[1]?.what).toMatchObject({ state: "problem", problem: "leak", readLpm: 131, ownerId: "maren" });
    expect(await screen.findByRole("button", { name: "all sent" })).toBeInTheDocument();
  }, 30_000);
});

describe("an alarm", () => {
  it("is acknowledged and cleared with a cause; without one it says that it needs one", async () => {
    const { user, entered } = field("/field?site=site&job=alarms");
    await press(user, "Acknowledge");
    expect(await screen.findByText(/acknowledged by Tolly/)).toBeInTheDocument();
    await press(user, "Note");
    await user.type(screen.getByLabelText("Note"), "wet ground");
    await press(user, "Keep the note");
    await press(user, "Cause, and clear");
    await press(user, "Clear it");
    expect(await screen.findByText("Say the cause, in three letters at least.")).toBeInTheDocument();
    await press(user, "broken head");
    expect(screen.getByLabelText("What was the cause")).toHaveValue("broken head");
    await press(user, "Clear it");
    await waitFor(() => expect(kinds(entered)).toEqual(["alarm", "alarm", "alarm"]));
    expect(entered.map((e) => (e.what as { act: object }).act)).toEqual([
      { action: "acknowledge" },
      { action: "note", words: "wet ground" },
      { action: "clear", cause: "broken head", repaired: false },
    ]);
  });
  it("that was cleared meanwhile is said with by whom; mine becomes a note, or is taken back", async () => {
    const met = { why: "cleared", by: "Maren" };
    let refuse = true;
    const { user, entered } = field("/field?site=site&job=alarms", {}, ({ path, body }) =>
      refuse && path.endsWith("/entries") && (body as FieldEntry).what.kind === "alarm"
        ? new Response(JSON.stringify({ error: { code: "conflict", message: "cleared", met } }), { status: 409 })
        : null,
    );
    await press(user, "Cause, and clear");
    await user.type(screen.getByLabelText("What was the cause"), "nozzle missing");
    await press(user, "Clear it");
    await press(user, /1 needs your answer/);
    expect(await screen.findByText(/Maren cleared this alarm meanwhile/)).toBeInTheDocument();
    expect(screen.getByText("“nozzle missing”")).toBeInTheDocument();
    refuse = false;
    await press(user, "Add it as a note");
    await waitFor(() =>
      expect(entered.map((e) => (e.what as { act: object }).act)).toEqual([
        { action: "note", words: "nozzle missing" },
      ]),
    );
    expect(await screen.findByText(/Nothing waits/)).toBeInTheDocument();
  });
});

describe("what was refused", () => {
  it("says why in the office's words, is sent again, or taken back", async () => {
    let refuse = true;
    const { user, entered } = field("/field?site=site&job=visit", {}, ({ path }) =>
      refuse && path.endsWith("/entries") ? refused(409, "conflict", "Small is archived.") : null,
    );
    await press(user, "Begin: Monthly");
    await press(user, /1 needs your answer/);
    expect(await screen.findByText("The office says: Small is archived.")).toBeInTheDocument();
    refuse = false;
    await press(user, "Send it again");
    await waitFor(() => expect(kinds(entered)).toEqual(["visitBegin"]));
    refuse = true;
    await press(user, "Close");
    await press(user, "End the visit");
    await press(user, "End the visit");
    await press(user, /1 needs your answer/);
    await press(user, "Take mine back");
    expect(await screen.findByText(/Nothing waits/)).toBeInTheDocument();
    expect(kinds(entered)).toEqual(["visitBegin"]);
  });
});

describe("a visit", () => {
  it("goes through its lines; what is not in order asks what is to do, what is left is asked about at the end", async () => {
    const { user, entered } = field("/field?site=site&job=visit");
    await press(user, "Begin: Spring start");
    const line = async (name: string) => within(await screen.findByRole("group", { name }));
    await user.click((await line("Pump")).getByRole("button", { name: "In order" }));
    await user.click((await line("Valve boxes")).getByRole("button", { name: "Not in order" }));
    await press(user, "Note the problem");
    expect(await screen.findByText("Say what is to do.")).toBeInTheDocument();
    await user.type(screen.getByLabelText("What is to do"), "New lid");
    await press(user, "Note the problem");
    await user.click((await line("Backup battery")).getByRole("button", { name: "Done anew" }));
    await press(user, "End the visit");
    expect(await screen.findByText(/lines are not entered. End it all the same/)).toBeInTheDocument();
    await press(user, "End the visit");
    await waitFor(() =>
      expect(kinds(entered)).toEqual(["visitBegin", "visitLook", "visitLook", "visitLook", "visitEnd"]),
    );
    expect(entered[2]?.what).toMatchObject({ state: "problem", todo: { words: "New lid" } });
    expect(entered[3]?.what).toMatchObject({ state: "done", doneOf: ["ctl"] });
  });
});

describe("meter and stopwatch", () => {
  it("keeps readings of a station until they are proposed, and says what is missing", async () => {
    const { user, entered } = field("/field?site=site&job=learn");
    await press(user, "Keep this reading");
    expect(await screen.findByText("Time and volume are both needed, over 0.")).toBeInTheDocument();
    const reading = async (seconds: string, litres: string): Promise<void> => {
      await user.type(screen.getByLabelText("Time, s"), `${seconds}{Enter}`);
      await user.type(screen.getByLabelText("Went through, L"), `${litres}{Enter}`);
      await press(user, "Keep this reading");
    };
    await reading("60", "98");
    expect(await screen.findByText(/Read it again to see how well it repeats/)).toBeInTheDocument();
    await reading("60", "104");
    expect(await screen.findAllByRole("listitem")).toHaveLength(2);
    await press(user, "Take reading 2 out");
    await press(user, "Propose 98 L/min for 1");
    await waitFor(() =>
      expect(entered[0]?.what).toMatchObject({
        kind: "flow",
        stationId: "s1",
        readings: [{ litres: 98, seconds: 60 }],
      }),
    );
    expect(await screen.findByText(/Proposed/)).toBeInTheDocument();
  });
  it("proves a sensor where the tests do, and says what is wrong where they do not", async () => {
    const { user, entered } = field("/field?site=site&job=learn");
    await press(user, "Flow sensor");
    const test = async (n: number, lpm: number, end: number): Promise<void> => {
      const form = within(await screen.findByRole("region", { name: `Test ${n}` }));
      const hz = (lpm / 3.785411784 / (1.6 * 1.02) - 0.3).toFixed(4);
      for (const [label, value] of [
        ["Meter at start, L", "1000"],
        ["Meter at end, L", String(end)],
        ["Time, s", "120"],
        ["Frequency, Hz", hz],
      ] as const) {
        fireEvent.change(form.getByLabelText(label), { target: { value } });
        fireEvent.blur(form.getByLabelText(label));
      }
    };
    await test(1, 60, 900);
    expect(await screen.findByText("The meter's end must be above its start.")).toBeInTheDocument();
    await test(1, 60, 1120);
    await press(user, "One more test");
    await test(2, 150, 1300);
    expect(await screen.findByText(/Proved: readings change by \+2/)).toBeInTheDocument();
    await press(user, "Keep this proof");
    await waitFor(() => expect(entered[0]?.what).toMatchObject({ kind: "proof", sensorId: "fs" }));
    expect(entered[0]?.what).toHaveProperty("rows.length", 2);
  });
});

describe("a water meter", () => {
  it("is read with a note, and says that it was kept; a site without one says so", async () => {
    const { user, entered } = field("/field?site=site&job=learn", {
      file: smallSite((s) => {
        s.pocs[0]?.devices.unshift({ id: "wm", kind: "meter" });
      }),
    });
    await press(user, "Water meter");
    expect(await screen.findByRole("button", { name: "Keep the reading" })).toBeDisabled();
    await user.type(screen.getByLabelText("It stands at, m³"), "1204.5{Enter}");
    await user.type(screen.getByLabelText("Note"), "lid stiff");
    await press(user, "Keep the reading");
    await waitFor(() =>
      expect(entered[0]?.what).toMatchObject({ kind: "meter", meterId: "wm", m3: 1204.5, note: "lid stiff" }),
    );
    expect(await screen.findByText(/Kept. The office sees it/)).toBeInTheDocument();
  });
});

describe("in Spanish", () => {
  /** Every English sentence without anything to fill in, of more than a word. */
  const english = Object.values(MESSAGES.en)
    .flatMap((part) => Object.values(part).flatMap((v) => (typeof v === "string" ? [v] : Object.values(v as object))))
    .filter((v): v is string => typeof v === "string" && !v.includes("{") && v.includes(" "));
  it.each(["site", "walk", "learn", "alarms", "visit"])("nothing of %s is left in English", async (job) => {
    // biome-ignore lint/suspicious/noDocumentCookie: as the page does it
    document.cookie = "presa_language=es; path=/";
    usePhone.setState({ language: "es" });
    field(`/field?site=site&job=${job}`);
    await screen.findByRole("navigation", { name: "Trabajos en el campo" });
    await waitFor(() => expect(document.querySelector("main")?.textContent?.length).toBeGreaterThan(40));
    const said = document.body.textContent ?? "";
    expect(english.filter((e) => said.includes(e))).toEqual([]);
  });
});
