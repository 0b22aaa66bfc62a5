import { screen, within } from "@testing-library/react";
import type { UserEvent } from "@testing-library/user-event";
import { afterEach, beforeEach, describe, expect, it, vi } from "vitest";
import type { Device, FlowSensor, SiteFile } from "@/core/site-file/schema";
import { type SiteAround, renderOnSite } from "@/testing/site-around";
import { smallSite } from "@/testing/small-site";
import { SensorsScreen } from "./sensors-screen";

vi.mock("next/navigation", () => import("@/testing/navigation-here"));
beforeEach(() => window.history.replaceState(null, "", "/sites/site/sensors"));
afterEach(() => vi.unstubAllGlobals());

const sensorOf = (file: SiteFile): FlowSensor =>
  file.pocs[0]?.devices.find((d) => d.kind === "flowSensor") as FlowSensor;
const frequency = (file: SiteFile): Extract<FlowSensor["output"], { type: "frequency" }> => {
  const { output } = sensorOf(file);
  if (output.type !== "frequency") throw new Error("not a frequency sensor");
  return output;
};
const put = async (user: UserEvent, label: string, text: string): Promise<void> => {
  const field = screen.getByLabelText(label);
  await user.clear(field);
  await user.type(field, `${text}{Tab}`);
};
/** The server takes whatever is sent to it. */
function takesAll(): Record<string, unknown>[] {
  const sent: Record<string, unknown>[] = [];
  vi.stubGlobal("fetch", async (_: string, init?: RequestInit) => {
    const body = JSON.parse(String(init?.body)) as Record<string, unknown>;
    sent.push(body);
    return new Response(JSON.stringify({ version: 4, file: body["file"] }), {
      headers: { "content-type": "application/json" },
    });
  });
  return sent;
}

describe("a sensor's data sheet", () => {
  it("is entered in the sheet's own unit and kept as US gallons a minute per hertz", async () => {
    const { user, now } = renderOnSite(smallSite(), <SensorsScreen />);
    await user.selectOptions(screen.getByLabelText("The sheet gives K for"), "L/min");
    await put(user, "K, L/min per Hz", "7.5708236");
    expect(frequency(now()).kGpm).toBeCloseTo(2, 6);
    await put(user, "Offset, Hz", "0.4");
    expect(frequency(now())).toMatchObject({ offsetHz: 0.4, sheetUnit: "lpm" });
  });
  it("of pulses may be given as pulses a volume", async () => {
    const { user, now } = renderOnSite(smallSite(), <SensorsScreen />);
    await user.selectOptions(screen.getByLabelText("Kind"), "pulses (volume each)");
    await user.click(screen.getByLabelText("given as pulses a volume"));
    const field = screen.getByLabelText(/^Pulses per/);
    await user.clear(field);
    await user.type(field, "0.25{Tab}");
    expect(sensorOf(now()).output).toMatchObject({ type: "pulse", litresPerPulse: 4, sheetReciprocal: true });
  });
  it("refuses what is no figure, and keeps what stood", async () => {
    const { user, now } = renderOnSite(smallSite(), <SensorsScreen />);
    const before = now();
    await put(user, "Offset, Hz", "half");
    expect(screen.getByLabelText("Offset, Hz")).toHaveAttribute("aria-invalid", "true");
    expect(now()).toBe(before);
  });
  it("cannot be changed by who only looks", () => {
    renderOnSite(smallSite(), <SensorsScreen />, { role: "viewer" });
    for (const label of ["Name", "Kind", "Offset, Hz"]) expect(screen.getByLabelText(label)).toBeDisabled();
    expect(screen.queryByRole("button", { name: "test" })).toBeNull();
  });
});

/** One test: litres at the start and end, seconds, hertz. */
async function test(
  { user }: SiteAround,
  n: number,
  [start, end, seconds, hz]: [string, string, string, string],
): Promise<void> {
  await put(user, `Test ${n}, meter at start`, start);
  await put(user, `Test ${n}, meter at end`, end);
  await put(user, `Test ${n}, seconds`, seconds);
  await put(user, `Test ${n}, Hz`, hz);
}

describe("proving", () => {
  it("refuses tests that are not one sensor on one meter, each with what to do", async () => {
    const site = renderOnSite(smallSite(), <SensorsScreen />);
    await test(site, 1, ["10000", "9900", "60", "20"]);
    expect(screen.getByRole("alert")).toHaveTextContent("Test 1: the meter's end must be above its start.");
    await put(site.user, "Test 1, meter at end", "10120");
    await site.user.click(screen.getByRole("button", { name: "test" }));
    await test(site, 2, ["10000", "10121", "60", "20.1"]);
    expect(screen.getByRole("alert")).toHaveTextContent("lie within 1.5 ×");
    expect(screen.queryByRole("button", { name: "Accept and save as a revision" })).toBeNull();
  });
  it("fits K and offset, shows what each test is off by, and is saved with who and when", async () => {
    const sent = takesAll();
    const site = renderOnSite(smallSite(), <SensorsScreen />);
    // 1.6 US gal/min per Hz and 0.3 Hz: 60.6 L/min at 9.7 Hz, 242.3 L/min at 39.7 Hz.
    await test(site, 1, ["0", "60.5666", "60", "9.7"]);
    await site.user.click(screen.getByRole("button", { name: "test" }));
    await test(site, 2, ["0", "242.2664", "60", "39.7"]);
    expect(screen.getByRole("img", { name: /^Residuals: / })).toBeInTheDocument();
    await site.user.click(screen.getByRole("button", { name: "Accept and save as a revision" }));
    const list = await screen.findByRole("list", { name: "Provings" });
    expect(list).toHaveTextContent("by Ada Fennimore: 2 tests from 61 L/min to 242 L/min");
    expect(sent[0]).toMatchObject({ baseVersion: 3, note: expect.stringContaining("proved against the meter") });
    const { kGpm, offsetHz } = frequency(site.now());
    expect([kGpm, offsetHz]).toEqual([expect.closeTo(1.6, 3), expect.closeTo(0.3, 2)]);
    expect(screen.getByRole("navigation", { name: "Sensors of the site" })).toHaveTextContent("proven; 7 checks left");
  });
  it("keeps the proof as an unsaved change when the server cannot be reached", async () => {
    vi.stubGlobal("fetch", async () => {
      throw new TypeError("unreachable");
    });
    const site = renderOnSite(smallSite(), <SensorsScreen />);
    await test(site, 1, ["0", "60.5666", "60", "9.7"]);
    await site.user.click(screen.getByRole("button", { name: "Accept and save as a revision" }));
    await screen.findByRole("list", { name: "Provings" });
    const { base, draft, problem } = site.draft.store.getState();
    expect(draft).not.toBe(base);
    expect(problem).not.toBeNull();
  });
  it("counts seconds by a stopwatch", async () => {
    let clock = 1000;
    vi.spyOn(performance, "now").mockImplementation(() => clock);
    const { user } = renderOnSite(smallSite(), <SensorsScreen />);
    await user.click(screen.getByRole("button", { name: "Stopwatch of test 1: start" }));
    clock += 42_340;
    await user.click(screen.getByRole("button", { name: "Stopwatch of test 1: stop" }));
    vi.restoreAllMocks();
    expect(screen.getByLabelText("Test 1, seconds")).toHaveValue("42.3");
  });
});

describe("checks of the wiring", () => {
  it("are kept with note, who and when; one not in order stands out", async () => {
    const { user, now } = renderOnSite(smallSite(), <SensorsScreen />);
    const checks = screen.getByRole("region", { name: "Wiring checks" });
    expect(checks).toHaveTextContent("0 of 7 looked at");
    await user.click(within(checks).getByRole("button", { name: /^In order: Shielded cable/ }));
    await user.type(within(checks).getByRole("textbox", { name: /^Note on: Red to plus/ }), "swapped at the decoder");
    await user.click(within(checks).getByRole("button", { name: /^Not in order: Red to plus/ }));
    expect(checks).toHaveTextContent("2 of 7 looked at");
    expect(checks).toHaveTextContent("1 not in order");
    expect(sensorOf(now()).checks).toMatchObject([
      { check: "shield", ok: true, by: "Ada Fennimore" },
      { check: "polarity", ok: false, note: "swapped at the decoder" },
    ]);
    expect(screen.getByRole("navigation", { name: "Sensors of the site" })).toHaveTextContent("1 check not in order");
  });
});

describe("several sensors", () => {
  const two = (blind: boolean): SiteFile =>
    smallSite((s) => {
      const devices = (s.pocs[0]?.devices ?? []).map((d): Device => ({ ...d, id: `${d.id}2` }));
      s.pocs.push({
        id: "poc2",
        name: "Second connection",
        sourceIds: ["src"],
        devices: blind ? devices.slice(0, 1) : devices,
      });
      s.mainlines[0]?.feedIds.push("poc2");
    });
  it("on one system are read as a sum, and the one that is looked at is in the address", async () => {
    const { user } = renderOnSite(two(false), <SensorsScreen />);
    expect(screen.getByText(/feed one connected system: their 2 sensors are judged as a sum/)).toHaveTextContent(
      "Together they are sure to see 20",
    );
    await user.click(
      within(screen.getByRole("navigation", { name: "Sensors of the site" })).getByRole("button", {
        name: /^Second connection/,
      }),
    );
    expect(window.location.search).toBe("?at=fs2");
  });
  it("of which one is missing tell nothing of the whole", () => {
    renderOnSite(
      smallSite((s) => {
        s.pocs[0]?.devices.pop();
      }),
      <SensorsScreen />,
    );
    expect(screen.getByText(/No flow sensor yet/)).toBeInTheDocument();
  });
});
