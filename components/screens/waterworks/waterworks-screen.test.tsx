import { fireEvent, screen, waitFor, within } from "@testing-library/react";
import { afterEach, beforeEach, describe, expect, it, vi } from "vitest";
import { exportInp } from "@/core/hydraulics/inp-write";
import type { SiteFile } from "@/core/site-file/schema";
import { renderOnSite } from "@/testing/site-around";
import { smallSite } from "@/testing/small-site";
import { DevicesPanel } from "./devices-panel";
import { ExchangePanel } from "./exchange-panel";
import { WaterworksScreen } from "./waterworks-screen";

vi.mock("next/navigation", () => import("@/testing/navigation-here"));
vi.mock("@/components/draft/compute", () => import("@/testing/compute-here"));
// The drawing measures itself in a browser; it is walked there.
vi.mock("../../pictures/drawing/flow-drawing", () => ({ FlowDrawing: () => null }));
beforeEach(() => window.history.replaceState(null, "", "/sites/site/waterworks"));
afterEach(() => vi.unstubAllGlobals());

const wired = (id: string): HTMLElement => document.querySelector(`[data-wired="${id}"]`) as HTMLElement;
const tray = (): HTMLElement => screen.getByRole("region", { name: "Tray" });

describe("the waterworks", () => {
  it("of nothing say where to begin; what is added is selected and in the address", async () => {
    const empty = smallSite((s) => {
      Object.assign(s, { sources: [], pocs: [], mainlines: [], controllers: [], stations: [], programs: [] });
    });
    const { user, now } = renderOnSite(empty, <WaterworksScreen />);
    expect(screen.getByText(/A sketch first, always/)).toBeInTheDocument();
    await user.click(screen.getByRole("button", { name: "Add" }));
    await user.click(screen.getByRole("button", { name: "Source" }));
    expect(now().sources).toHaveLength(1);
    expect(window.location.search).toBe(`?at=${now().sources[0]?.id}`);
    expect(screen.getByRole("complementary", { name: "Ledger" })).toHaveTextContent(/Sustained yield/);
  });
  it("offer nothing to add to who only looks", () => {
    renderOnSite(smallSite(), <WaterworksScreen />, { role: "viewer" });
    expect(screen.queryByRole("button", { name: "Add" })).toBeNull();
  });
  it("a budget is entered in the site's own bulk unit", async () => {
    const { user, now } = renderOnSite(
      smallSite((s) => {
        s.site.units = "us";
      }),
      <WaterworksScreen />,
    );
    window.history.replaceState(null, "", "/sites/site/waterworks?at=src");
    const july = await screen.findByRole("textbox", { name: "Budget by month, Jul, kgal" });
    await user.type(july, "10{Tab}");
    // The other months are not taken for none.
    expect(now().sources[0]?.monthlyBudgetM3).toBeUndefined();
    await user.click(screen.getByRole("button", { name: "10 kgal in the 11 empty ones" }));
    expect(now().sources[0]?.monthlyBudgetM3?.[6]).toBeCloseTo(37.854, 3);
    expect(screen.getByRole("textbox", { name: "Budget by month, Jul, kgal" })).toHaveValue("10");
  });
});

describe("pressure at the valves", () => {
  const piped = (required: number) =>
    smallSite((s) => {
      Object.assign(s.sources[0] as object, { staticPressureKpa: 300 });
      s.mainlines[0]?.pipes.push({
        id: "p1",
        kind: "pipe",
        material: "PVC",
        series: "SCH40",
        nominal: "2 in",
        lengthM: 260,
      });
      for (const x of s.stations) x.requiredKpa = required;
    });
  it("names the worst, what it has and what it lacks; only the short ones on request", async () => {
    window.history.replaceState(null, "", "/sites/site/waterworks?view=pressure");
    const { user } = renderOnSite(piped(255), <WaterworksScreen />);
    await screen.findByText(/Worst:/, undefined, { timeout: 9000 });
    expect(screen.getByText(/to spare/)).toBeInTheDocument();
    await user.selectOptions(screen.getByLabelText("Running"), "design");
    expect(await screen.findByText(/short/, { selector: "strong" })).toBeInTheDocument();
    await user.click(screen.getByLabelText("only those that are short"));
    await user.click(screen.getAllByRole("button", { name: "3 S3" })[0] as HTMLElement);
    expect(window.location.search).toBe("?at=s3");
  }, 15_000);
  it("cannot be told where no source states one", async () => {
    window.history.replaceState(null, "", "/sites/site/waterworks?view=pressure");
    renderOnSite(smallSite(), <WaterworksScreen />);
    expect(
      await screen.findByText(/No pressure can be told: no source states one/, undefined, { timeout: 9000 }),
    ).toBeInTheDocument();
  }, 15_000);
});

describe("devices and wires", () => {
  const open = (change: (s: SiteFile) => void = () => {}, role = "manager") => {
    const onShow = vi.fn();
    return { ...renderOnSite(smallSite(change), <DevicesPanel onShow={onShow} />, { role }), onShow };
  };
  it("serial numbers go into the tray; what is taken, twice or none is refused with why and stays to be mended", async () => {
    const { user, now } = open((s) => {
      Object.assign(s.stations[0] as object, { serial: "K100" });
    });
    await user.type(screen.getByLabelText(/^Paste or scan/), "K201{Enter}k-201{Enter}K100{Enter}hose");
    await user.click(screen.getByRole("button", { name: "Into the tray" }));
    expect(now().tray?.map((d) => d.serial)).toEqual(["K201"]);
    const refused = within(tray())
      .getAllByRole("listitem")
      .map((l) => l.textContent);
    expect(refused).toEqual(
      expect.arrayContaining([
        expect.stringMatching(/k-201 is in the tray already, or listed twice/),
        expect.stringMatching(/K100 is in use already on 1 S1/),
        expect.stringMatching(/hose is no serial number/),
      ]),
    );
    expect(screen.getByLabelText(/^Paste or scan/)).toHaveValue("k-201\nK100\nhose");
  });
  it("one is carried to a row by pressing, and dropped on a row by dragging", async () => {
    const { user, now } = open((s) => {
      s.tray = [{ serial: "K201" }, { serial: "K202" }];
    });
    await user.click(within(tray()).getByRole("button", { name: "K201" }));
    expect(screen.getByText(/Carrying/)).toBeInTheDocument();
    await user.click(screen.getByRole("button", { name: "Assign K201 to 2 S2" }));
    expect(now().stations[1]?.serial).toBe("K201");
    expect(now().tray?.map((d) => d.serial)).toEqual(["K202"]);
    const dataTransfer = { types: ["application/x-presa-serial"], getData: () => "K202" };
    fireEvent.dragOver(wired("s3"), { dataTransfer });
    fireEvent.drop(wired("s3"), { dataTransfer });
    expect(now().stations[2]?.serial).toBe("K202");
    expect(now().tray ?? []).toEqual([]);
  });
  it("an address used twice on one path is refused, and nothing changes", async () => {
    const { user, now } = open((s) => {
      Object.assign(s.stations[0] as object, { address: "4" });
    });
    await user.click(within(wired("s2")).getByRole("button", { name: "2 S2" }));
    const before = now();
    await user.type(screen.getByLabelText("Terminal"), "04{Enter}");
    expect(screen.getByRole("alert")).toHaveTextContent(/Nothing was changed/);
    expect(now()).toBe(before);
    await user.click(screen.getByRole("button", { name: "Dismiss" }));
    expect(screen.queryByRole("alert")).toBeNull();
  });
  it("a resistance says what it means, and is kept with who and when", async () => {
    const { user, now } = open();
    await user.click(within(wired("s1")).getByRole("button", { name: "1 S1" }));
    await user.type(screen.getByLabelText(/^Reading/), "4{Tab}");
    expect(screen.getByText("short: coil or wire")).toBeInTheDocument();
    await user.click(screen.getByRole("button", { name: "Note it" }));
    expect(now().wireReadings).toMatchObject([{ subjectId: "s1", ohm: 4, by: "Ada Fennimore", where: "controller" }]);
    expect(wired("s1")).toHaveTextContent("4 Ω, short");
  });
  it("a wire path is added, named, and deleted only when nothing hangs on it", async () => {
    const { user, now } = open();
    await user.click(screen.getByRole("button", { name: "two-wire path" }));
    const path = now().controllers[0]?.wirePaths?.[0];
    expect(path?.kind).toBe("twoWire");
    await user.click(within(wired("s1")).getByRole("button", { name: "1 S1" }));
    await user.selectOptions(screen.getByLabelText("Wire path"), path?.id ?? "");
    expect(now().stations[0]?.wirePathId).toBe(path?.id);
    expect(screen.getByRole("button", { name: "Delete path" })).toBeDisabled();
    await user.selectOptions(screen.getByLabelText("Wire path"), "");
    await user.click(screen.getByRole("button", { name: "Delete path" }));
    expect(now().controllers[0]?.wirePaths ?? []).toEqual([]);
  });
  it("are found by name, address or serial number, and shown on the drawing", async () => {
    const { user, onShow } = open();
    await user.type(screen.getByLabelText("Find by name, address or serial number"), "S2");
    expect(wired("s1")).toBeNull();
    await user.click(screen.getByRole("button", { name: "Show 2 S2 on the drawing" }));
    expect(onShow).toHaveBeenCalledWith("s2");
  });
});

describe("exchange as a network file", () => {
  const file = (text: string): File => new File([text], "other.inp", { type: "text/plain" });
  it("lists what does not fit before anything changes; taken, it is an unsaved change", async () => {
    const onDone = vi.fn();
    const { user, now } = renderOnSite(smallSite(), <ExchangePanel onDone={onDone} />);
    const before = now();
    const text = exportInp(smallSite(), new Set([0, 1])).replace("[END]", "[EMITTERS]\n J9 4.2\n[END]");
    await user.upload(screen.getByLabelText("EPANET input file"), file(text));
    const found = await screen.findByRole("region", { name: "What the file holds" });
    expect(found).toHaveTextContent("other.inp: 0 added");
    expect(now()).toBe(before);
    await user.click(within(found).getByRole("button", { name: "Take it into the draft" }));
    expect(now()).not.toBe(before);
    expect(onDone).toHaveBeenCalled();
  });
  it("refuses what is no network, and changes nothing", async () => {
    const { user, now } = renderOnSite(smallSite(), <ExchangePanel onDone={() => {}} />);
    const before = now();
    await user.upload(screen.getByLabelText("EPANET input file"), file("dear diary"));
    await waitFor(() => expect(screen.getByRole("alert")).toHaveTextContent(/Nothing was changed/));
    expect(now()).toBe(before);
  });
});
