import { fireEvent, screen, waitFor, within } from "@testing-library/react";
import { afterEach, beforeEach, describe, expect, it, vi } from "vitest";
import type { Program, SiteFile } from "@/core/site-file/schema";
import { savedFiles } from "@/testing/saved-files";
import { renderOnSite } from "@/testing/site-around";
import { smallSite } from "@/testing/small-site";
import { useWorkspace } from "../../draft/site-draft";
import { AllPrograms } from "./all-programs";
import { EstablishPanel } from "./establish-panel";
import { InputRules } from "./input-rules";
import { ProgramHow } from "./program-settings";
import { RunMatrix } from "./run-matrix";
import { SetupSheetView } from "./setup-sheet";
import { StartTimes } from "./start-times";
import { WeatherInputs } from "./weather-inputs";
import { YearWater } from "./year-water";

vi.mock("next/navigation", () => import("@/testing/navigation-here"));
beforeEach(() => {
  window.history.replaceState(null, "", "/sites/site/programs");
  vi.stubGlobal(
    "fetch",
    async () => new Response(JSON.stringify({ items: [] }), { headers: { "content-type": "application/json" } }),
  );
});
afterEach(() => {
  vi.unstubAllGlobals();
  vi.restoreAllMocks();
});

const first = (site: SiteFile): Program => site.programs[0] as Program;
/** A part of the first program, drawn anew with every edit, as its screen does. */
function Of({ part: Part }: { part: React.ComponentType<{ program: Program }> }) {
  const { draft } = useWorkspace("draft");
  return <Part program={first(draft)} />;
}
const part = (
  Part: React.ComponentType<{ program: Program }>,
  change: (s: SiteFile) => void = () => {},
  role = "manager",
) => renderOnSite(smallSite(change), <Of part={Part} />, { role });

describe("how a program runs", () => {
  const field = (name: RegExp): HTMLElement => screen.getByRole("textbox", { name });
  const type = (name: RegExp, text: string): void => {
    fireEvent.change(field(name), { target: { value: text } });
    fireEvent.blur(field(name));
  };
  it("gives cycles and a soak to stations that have none, and takes them away again", () => {
    const { now } = part(ProgramHow);
    const kinds = screen.getByRole("combobox", { name: /Stations without cycles/ });
    fireEvent.change(kinds, { target: { value: "longestMin" } });
    type(/Longest cycle/, "8");
    type(/Usual soak/, "12");
    expect(first(now()).cycle).toEqual({ longestMin: 8 });
    expect(first(now()).soakMin).toBe(12);
    fireEvent.change(kinds, { target: { value: "count" } });
    expect(first(now()).cycle).toEqual({ count: 3 });
    fireEvent.change(kinds, { target: { value: "" } });
    expect(first(now()).cycle).toBeUndefined();
  });
  it("keeps a description and notes, and none where they are emptied", () => {
    const { now } = part(ProgramHow);
    type(/Description/, " Lawns by the road ");
    type(/Notes/, "Wait for the mower.\nTuesdays.");
    expect(first(now())).toMatchObject({ description: "Lawns by the road", notes: "Wait for the mower.\nTuesdays." });
    type(/Notes/, "  ");
    expect("notes" in first(now())).toBe(false);
  });
});

describe("the order of stations", () => {
  const order = (s: SiteFile): string[] => first(s).runs.map((r) => r.stationId);
  it("is changed by the keyboard: taken up, carried, laid down", async () => {
    const { now } = part(RunMatrix);
    // Every row stands 40 px below the one before it, as on a screen.
    vi.spyOn(HTMLElement.prototype, "getBoundingClientRect").mockImplementation(function box(this: HTMLElement) {
      const row = this.closest("tr");
      const place = row ? [...(row.parentElement?.children ?? [])].indexOf(row) : 0;
      return {
        x: 0,
        y: 40 * place,
        left: 0,
        top: 40 * place,
        right: 300,
        bottom: 40 * place + 40,
        width: 300,
        height: 40,
      } as DOMRect;
    });
    const handle = screen.getByRole("button", { name: "Move station 1" });
    handle.focus();
    fireEvent.keyDown(handle, { code: "Space", key: " " });
    await waitFor(() => expect(handle).toHaveAttribute("aria-pressed", "true"));
    // What was taken up is told to readers, and so is what it lies over.
    await waitFor(() => expect(screen.getByText(/^Station 1 (taken up|at 1 of 3)\.$/)).toBeInTheDocument());
    fireEvent.keyDown(document, { code: "ArrowDown", key: "ArrowDown" });
    await waitFor(() => expect(document.body).toHaveTextContent("Station 1 at 2 of 3."));
    fireEvent.keyDown(document, { code: "Space", key: " " });
    await waitFor(() => expect(order(now())).toEqual(["s2", "s1", "s3"]));
  });
  it("is offered to be moved to nobody who only looks", () => {
    part(RunMatrix, () => {}, "viewer");
    expect(screen.queryByRole("button", { name: /^Move station/ })).toBeNull();
    expect(screen.getByLabelText("Minutes of station 1")).toBeDisabled();
  });
  it("tells cycles and the other programs a station is in", () => {
    part(RunMatrix, (s) => {
      Object.assign(s.stations[0] as object, { cycle: { longestMin: 4 }, soakMin: 20 });
      Object.assign(s.stations[1] as object, { cycle: { count: 3 } });
      s.programs.push({ ...first(s), id: "q", name: "Beds", runs: [{ stationId: "s3", minutes: 5 }] });
    });
    const row = (name: string): HTMLElement => screen.getByText(name).closest("tr") as HTMLElement;
    expect(row("1 S1")).toHaveTextContent("max 4 min, soak 20 min");
    expect(row("2 S2")).toHaveTextContent("3 ×, soak 0 min");
    expect(row("3 S3")).toHaveTextContent(/Beds$/);
  });
  it("stations that are not in it come in together, with one figure and one step of undo", async () => {
    const { user, now, draft } = part(RunMatrix, (s) => {
      first(s).runs = [{ stationId: "s2", minutes: 10 }];
    });
    const add = screen.getByRole("button", { name: "Add 2 stations" });
    expect(add).toBeDisabled();
    await user.type(screen.getByRole("textbox", { name: /^Minutes for all not yet in/ }), "12{Enter}");
    await user.click(add);
    expect(first(now()).runs).toEqual([
      { stationId: "s2", minutes: 10 },
      { stationId: "s1", minutes: 12 },
      { stationId: "s3", minutes: 12 },
    ]);
    draft.undo();
    expect(first(now()).runs).toHaveLength(1);
  });
});

describe("water by month", () => {
  const cells = (row: string): (string | null)[] =>
    within(screen.getByText(row).closest("tr") as HTMLElement)
      .getAllByRole("cell")
      .slice(1)
      .map((c) => c.textContent);
  it("is this program's and all programs', beside the budgets; what is over stands out", () => {
    part(YearWater, (s) => {
      (s.sources[0] as { monthlyBudgetM3?: number[] }).monthlyBudgetM3 = [
        ...Array(6).fill(50),
        5,
        ...Array(5).fill(50),
      ];
      first(s).days = { type: "weekdays", days: ["mon", "tue", "wed", "thu", "fri", "sat", "sun"] };
      s.programs.push({ ...first(s), id: "q", name: "Beds", runs: [{ stationId: "s3", minutes: 10 }] });
    });
    // 2.5 m³ a night: a July of 31 nights.
    expect(cells("P")[6]).toBe("77.5");
    expect(cells("All programs")[6]).toBe("93");
    expect(cells("Budget of Source")[6]).toBe("5");
    expect(screen.getByText(/^By month/)).toHaveTextContent(
      /By month: 77\.5 m³ in Jul; all programs 93 of a budget of 5.*, over budget in /,
    );
    expect(within(screen.getByText("All programs").closest("tr") as HTMLElement).getAllByRole("cell")[7]).toHaveClass(
      "text-error",
    );
  });
  it("without a budget says none, and of a source that is off nothing", () => {
    part(YearWater, (s) => {
      s.sources.push({ id: "off", name: "Dry well", kind: "well", enabled: false });
    });
    expect(cells("Budget of Source").at(-1)).toBe("none");
    expect(screen.queryByText("Budget of Dry well")).toBeNull();
    expect(screen.getByText(/^By month/)).not.toHaveTextContent("budget");
  });
});

describe("start times", () => {
  it("warn of an hour that the clocks skip", async () => {
    const { user } = part(StartTimes, (s) => {
      first(s).days = { type: "weekdays", days: ["sun"] };
    });
    expect(screen.queryByText(/does not exist in the night/)).toBeNull();
    const start = screen.getByRole("textbox", { name: "Start 1" });
    await user.clear(start);
    await user.type(start, "02:30{Enter}");
    expect(screen.getByText(/02:30 does not exist in the night when the clocks go forward/)).toBeInTheDocument();
    await user.click(screen.getByRole("switch", { name: "Start 02:30 is on" }));
    expect(screen.queryByText(/does not exist in the night/)).toBeNull();
  });
  it("are looked at by who only looks", () => {
    part(StartTimes, () => {}, "viewer");
    expect(screen.getByRole("textbox", { name: "Start 1" })).toBeDisabled();
    expect(screen.queryByRole("button", { name: /Remove start/ })).toBeNull();
  });
});

describe("an input", () => {
  it("is added, named, measured and taken out with everything that points to it", async () => {
    const { user, now } = renderOnSite(
      smallSite((s) => {
        s.weatherInputs = [{ id: "wet", name: "Wet", kind: "moisture" }];
        first(s).onInputs = [{ inputId: "wet", does: "start", when: "below", limit: 20 }];
        (s.stations[0] as { ignoresInputs?: string[] }).ignoresInputs = ["wet"];
      }),
      <WeatherInputs />,
    );
    expect(screen.getByText("2 stations follow it, 1 ignore it; it starts or pauses P")).toBeInTheDocument();
    await user.click(screen.getByRole("checkbox", { name: "bypassed" }));
    expect(screen.getByText("stops, starts and pauses nothing")).toBeInTheDocument();
    await user.click(screen.getByRole("button", { name: "Input" }));
    expect(now().weatherInputs?.[1]).toMatchObject({ name: "Rain 2", kind: "rain" });
    await user.selectOptions(screen.getAllByRole("combobox", { name: "Measures" })[1] as HTMLElement, "frost");
    expect(now().weatherInputs?.[1]?.kind).toBe("freeze");
    await user.click(screen.getByRole("button", { name: "Remove Wet" }));
    expect(JSON.stringify(now())).not.toContain('"wet"');
    expect(first(now())).not.toHaveProperty("onInputs");
    expect(now().stations[0]).not.toHaveProperty("ignoresInputs");
  });
  it("starts or pauses a program by a rule, in the site's own unit", async () => {
    const { user, now } = part(InputRules, (s) => {
      s.site.units = "us";
      s.weatherInputs = [
        { id: "cold", name: "Cold", kind: "temperature" },
        { id: "sw", name: "Switch", kind: "switch" },
      ];
    });
    await user.click(screen.getByRole("button", { name: "rule" }));
    // 5 °C is 41 °F.
    expect(first(now()).onInputs).toEqual([{ inputId: "cold", does: "pause", when: "below", limit: 5 }]);
    const limit = screen.getByRole("textbox", { name: /^Limit of Cold/ });
    expect(limit).toHaveValue("41");
    await user.clear(limit);
    await user.type(limit, "32{Enter}");
    expect(first(now()).onInputs?.[0]?.limit).toBeCloseTo(0, 6);
    expect(screen.getByText(/no reading does so on 2026-07-14; what was running goes on/)).toBeInTheDocument();
    await user.click(screen.getByRole("button", { name: "Remove the rule on Cold" }));
    expect(first(now())).not.toHaveProperty("onInputs");
  });
  it("where there is none, is asked for first", () => {
    part(InputRules);
    expect(screen.getByText(/No input: add a moisture sensor/)).toBeInTheDocument();
    expect(screen.queryByRole("button", { name: "rule" })).toBeNull();
  });
});

describe("all programs on one calendar", () => {
  const night = (date: string): HTMLElement => screen.getByRole("button", { name: `Night of ${date}` });
  it("count the starts of each night, a switched-off program and a hold left out", () => {
    renderOnSite(
      smallSite((s) => {
        first(s).starts = ["20:00", "22:00", { at: "23:00", off: true }];
        s.programs.push({ ...first(s), id: "q", name: "Beds", enabled: false });
      }),
      <AllPrograms onPick={() => {}} />,
    );
    const sum = screen.getByText("Starts that night").closest("tr") as HTMLElement;
    const counted = within(sum)
      .getAllByRole("cell")
      .map((c) => c.textContent);
    expect(counted.filter((c) => c === "2")).toHaveLength(6);
    expect(counted.filter((c) => c === "·")).toHaveLength(36);
  });
  it("choose the night that is shown everywhere", async () => {
    const { user } = renderOnSite(smallSite(), <AllPrograms onPick={() => {}} />);
    expect(night("2026-07-14")).toHaveAttribute("aria-pressed", "true");
    await user.click(night("2026-07-21"));
    expect(window.location.search).toBe("?date=2026-07-21");
  });
});

describe("the sheet for a controller", () => {
  it("is another for each controller, and goes out as CSV under its name", async () => {
    const files = savedFiles();
    const { user } = renderOnSite(
      smallSite((s) => {
        s.controllers.push({ id: "two", name: "Pump house 2", powered: "mains", off: true });
      }),
      <SetupSheetView />,
    );
    const sheet = screen.getByRole("region", { name: "Setup sheet" });
    expect(sheet).toHaveTextContent("3 stations. Times as on");
    expect(within(sheet).getByRole("heading", { level: 4 })).toHaveTextContent("P");
    expect(sheet).toHaveTextContent(/A start in all30 min/);
    await user.click(within(sheet).getByRole("button", { name: "CSV" }));
    expect(files[0]?.name).toBe("small-Controller-setup.csv");
    expect(await files[0]?.text).toContain("S3");
    await user.selectOptions(within(sheet).getByRole("combobox", { name: "Controller" }), "Pump house 2");
    expect(sheet).toHaveTextContent("No program runs on it.");
    expect(sheet).toHaveTextContent("0 stations · OFF");
  });
  it("of no controller says so", () => {
    renderOnSite(
      smallSite((s) => {
        s.controllers = [];
        s.stations = [];
        s.programs = [];
      }),
      <SetupSheetView />,
    );
    expect(screen.getByText("No controller yet.")).toBeInTheDocument();
  });
});

describe("establishing", () => {
  it("takes the new stations first, and asks for at least one", async () => {
    const { user } = part(EstablishPanel, (s) => {
      (s.stations[1] as { planting?: string }).planting = "new";
    });
    expect(screen.getByRole("heading", { name: "Establish 1 of 3 stations" })).toBeInTheDocument();
    await user.click(screen.getByRole("checkbox", { name: /^2 S2/ }));
    expect(screen.getByRole("heading", { name: "Establish 0 of 3 stations" })).toBeInTheDocument();
    expect(screen.getByRole("button", { name: /^(Write|Make|Establish|Add)/ })).toBeDisabled();
  });
});
