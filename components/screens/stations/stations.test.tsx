import { act, fireEvent, screen, within } from "@testing-library/react";
import { beforeEach, describe, expect, it, vi } from "vitest";
import type { SiteFile } from "@/core/site-file/schema";
import { renderOnSite, type SiteAround } from "@/testing/site-around";
import { smallSite } from "@/testing/small-site";
import { StationsScreen } from "./stations-screen";

vi.mock("next/navigation", () => import("@/testing/navigation-here"));
beforeEach(() => window.history.replaceState(null, "", "/sites/site/stations"));

const cell = (station: number, column: string): HTMLElement => {
  const found = document.querySelector<HTMLElement>(`[data-station="${station}"][data-column="${column}"]`);
  if (!found) throw new Error(`no cell ${column} of station ${station}`);
  return found;
};
const drawn = (change: (site: SiteFile) => void = () => {}): SiteAround =>
  renderOnSite(smallSite(change), <StationsScreen />);
const paste = (text: string): boolean =>
  fireEvent.paste(document.activeElement as Element, { clipboardData: { getData: () => text } });

describe("the grid of stations", () => {
  it("a cell is edited in place: typing begins anew, Enter goes down, Escape keeps what stood", async () => {
    const { user, now } = drawn();
    await user.click(cell(1, "name"));
    await user.keyboard("Gate lawn{Enter}");
    expect(now().stations[0]?.name).toBe("Gate lawn");
    expect(cell(2, "name")).toHaveFocus();
    await user.keyboard("Bank{Escape}");
    expect(now().stations[1]?.name).toBe("S2");
  });

  it("what may not stand there is refused in words, and the cell keeps its value", async () => {
    const { user, now } = drawn();
    await user.click(cell(2, "number"));
    await user.keyboard("1{Enter}");
    expect(screen.getByRole("alert")).toHaveTextContent("Number 1 is already used on that controller");
    expect(now().stations[1]?.number).toBe(2);
    await user.keyboard("{Escape}");
    await user.click(cell(2, "designFlowLpm"));
    await user.keyboard("much{Enter}");
    expect(screen.getByRole("alert")).toHaveTextContent("Station 2:");
    expect(now().stations[1]?.designFlowLpm).toBe(100);
  });

  it("the arrows go from cell to cell, and one cell alone takes the focus", async () => {
    const { user } = drawn();
    await user.click(cell(1, "name"));
    await user.keyboard("{ArrowDown}{ArrowDown}{ArrowDown}{ArrowLeft}");
    expect(document.activeElement).toHaveAttribute("data-station", "3");
    expect(screen.getAllByRole("gridcell").filter((c) => c.tabIndex === 0)).toHaveLength(1);
  });

  it("rows are marked together: typed once, filled down, emptied, each one step of undo", async () => {
    const { user, now, draft } = drawn();
    await user.click(cell(1, "requiredKpa"));
    await user.keyboard("{Shift>}{ArrowDown}{ArrowDown}{/Shift}275{Enter}");
    expect(now().stations.map((s) => s.requiredKpa)).toEqual([275, 275, 275]);
    expect(draft.store.temporal.getState().pastStates).toHaveLength(1);
    await user.click(cell(1, "name"));
    await user.keyboard("{Shift>}{ArrowDown}{/Shift}{Control>}d{/Control}");
    expect(now().stations.map((s) => s.name)).toEqual(["S1", "S1", "S3"]);
    await user.click(cell(3, "requiredKpa"));
    await user.keyboard("{Delete}");
    expect(now().stations[2]?.requiredKpa).toBeUndefined();
    draft.undo();
    expect(now().stations[2]?.requiredKpa).toBe(275);
  });

  it("rows are pasted with their headings; what would change and what is refused is shown first", async () => {
    const { user, now } = drawn();
    await user.click(cell(1, "number"));
    paste("No.\tName\tDesign\n1\tGate\t88\n2\tBank\tmany");
    const preview = screen.getByRole("region", { name: "Before pasting" });
    expect(preview).toHaveTextContent("1 cell refused");
    expect(now().stations[0]?.name).toBe("S1");
    await user.click(within(preview).getByRole("button", { name: "Take what is right" }));
    expect(now().stations.map((s) => [s.name, s.designFlowLpm])).toEqual([
      ["Gate", 88],
      ["Bank", 100],
      ["S3", 50],
    ]);
    expect(screen.getByRole("status")).toHaveTextContent("Ctrl+Z undoes it");
  });

  it("a heading sorts, both ways, and back to the order of the file", async () => {
    const { user } = drawn();
    const order = (): (string | null)[] =>
      screen.getAllByRole("row").flatMap((r) => {
        const first = r.querySelector("[data-column=number]");
        return first ? [first.textContent] : [];
      });
    const design = screen.getByRole("button", { name: /^Design/ });
    await user.click(design);
    expect(order()[0]).toBe("3");
    expect(screen.getByRole("columnheader", { name: /^Design/ })).toHaveAttribute("aria-sort", "ascending");
    await user.click(design);
    expect(order().at(-1)).toBe("3");
    await user.click(screen.getByRole("button", { name: "File order" }));
    expect(order()).toEqual(["1", "2", "3"]);
  });

  it("finds by any words in a row", async () => {
    const { user } = drawn((s) => {
      Object.assign(s.stations[1] as object, { name: "Rotor bank", emitter: "rotor" });
    });
    await user.type(screen.getByRole("textbox", { name: "Find" }), "bank rotor");
    expect(screen.getByRole("grid")).toHaveAttribute("aria-rowcount", "2");
    await user.type(screen.getByRole("textbox", { name: "Find" }), " none");
    expect(screen.getByText("No station matches the search.")).toBeInTheDocument();
  });

  it("a station is added like the last, and deleted with all that hangs on it", async () => {
    const { user, now } = drawn();
    await user.click(screen.getByRole("button", { name: "Station" }));
    expect(now().stations[3]).toMatchObject({ number: 4, controllerId: "ctl", mainlineId: "main" });
    await user.click(cell(1, "name"));
    await user.click(screen.getByRole("button", { name: "Delete station" }));
    expect(now().stations.map((s) => s.number)).toEqual([2, 3, 4]);
    expect(now().programs[0]?.runs.map((r) => r.stationId)).toEqual(["s2", "s3"]);
  });

  it("a viewer goes through it and changes nothing", async () => {
    const { user, now } = renderOnSite(smallSite(), <StationsScreen />, { role: "viewer" });
    await user.click(cell(1, "name"));
    await user.keyboard("X{Enter}{Delete}");
    expect(now().stations[0]?.name).toBe("S1");
    expect(screen.queryByRole("button", { name: "Station" })).toBeNull();
  });
});

describe("stations on paper", () => {
  it("are all there as a table while the page is printed, without columns in which nothing stands", async () => {
    renderOnSite(smallSite(), <StationsScreen />);
    expect(screen.queryByRole("table", { name: "Stations" })).toBeNull();
    act(() => {
      window.dispatchEvent(new Event("beforeprint"));
    });
    const table = screen.getByRole("table", { name: "Stations" });
    expect(within(table).getAllByRole("row")).toHaveLength(4);
    expect(within(table).getByRole("columnheader", { name: "Design, L/min" })).toBeInTheDocument();
    expect(within(table).queryByRole("columnheader", { name: /^Soak/ })).toBeNull();
    act(() => {
      window.dispatchEvent(new Event("afterprint"));
    });
    expect(screen.queryByRole("table", { name: "Stations" })).toBeNull();
  });
});
