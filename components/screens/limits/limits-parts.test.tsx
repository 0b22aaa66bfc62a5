import { screen, within } from "@testing-library/react";
import { describe, expect, it, vi } from "vitest";
import { plan } from "@/core/dispatch/plan";
import { sightOf } from "@/core/limits/sight";
import type { SiteFile } from "@/core/site-file/schema";
import { renderOnSite } from "@/testing/site-around";
import { smallSite } from "@/testing/small-site";
import { HandWateringPanel } from "./hand-watering-panel";
import { InheritedPanel } from "./inherited-panel";
import { JawTable } from "./jaw-table";
import { StationLimits } from "./station-limits";

const field = (name: string | RegExp): HTMLElement => screen.getByRole("textbox", { name });

describe("limits of a main", () => {
  it("are its connection's where it has none, figure by figure, and say so", async () => {
    const { user, now } = renderOnSite(smallSite(), <InheritedPanel />);
    expect(screen.getByText("All as the site's.")).toBeInTheDocument();
    await user.selectOptions(screen.getByRole("combobox", { name: "Response when high of Poc" }), "notify");
    expect(screen.getByText("1 with figures of its own.")).toBeInTheDocument();
    const main = screen.getByRole("combobox", { name: "Response when high of Main" });
    expect(within(main).getByRole("option", { selected: true })).toHaveTextContent(/\(Poc\)$/);
    await user.type(field("Persistence of Main"), "90{Enter}");
    expect(screen.getByText("2 with figures of their own.")).toBeInTheDocument();
    expect(now().mainlines[0]?.policy).toEqual({ persistenceS: 90 });
    await user.selectOptions(screen.getByRole("combobox", { name: "School of persistence of Main" }), "10 s mean");
    expect(now().mainlines[0]?.policy).toEqual({ persistenceS: 90, judge: "mean" });
  });
  it("out of their range are refused, and what stood stands", async () => {
    const { user, now } = renderOnSite(smallSite(), <InheritedPanel />);
    await user.type(field("Low limit of Main"), "140{Enter}");
    expect(screen.getByRole("alert")).toHaveTextContent(/100/);
    expect(now().mainlines[0]?.policy).toBeUndefined();
  });
  it("are closed to who only looks", () => {
    renderOnSite(smallSite(), <InheritedPanel />, { role: "viewer" });
    for (const f of [...screen.getAllByRole("textbox"), ...screen.getAllByRole("combobox")]) expect(f).toBeDisabled();
  });
});

describe("hand watering", () => {
  const watered = (flowLpm: number): SiteFile =>
    smallSite((s) => {
      Object.assign(s.pocs[0] as object, {
        ceilingLpm: 160,
        handWatering: [{ window: { from: "07:00", to: "15:00" }, flowLpm }],
      });
    });
  it("says what it leaves to stations, down to nothing", () => {
    const { unmount } = renderOnSite(watered(40), <HandWateringPanel />);
    expect(screen.getByText("1 span of hours")).toBeInTheDocument();
    expect(screen.getByText(/the high limit is 40 L\/min wider/)).toHaveTextContent(
      "and 120 L/min of its 160 L/min are left to stations.",
    );
    unmount();
    renderOnSite(watered(200), <HandWateringPanel />);
    expect(screen.getByText(/Nothing is left to stations then/)).toHaveTextContent("and 0 L/min of its 160 L/min");
  });
  it("is removed to nothing at all, and keeps at least one day", async () => {
    const { user, now } = renderOnSite(watered(40), <HandWateringPanel />);
    const days = within(screen.getByRole("group", { name: "Days" }));
    for (const d of ["Mon", "Tue", "Wed", "Thu", "Fri", "Sat"]) await user.click(days.getByRole("button", { name: d }));
    expect(now().pocs[0]?.handWatering?.[0]?.window.days).toEqual(["sun"]);
    await user.click(days.getByRole("button", { name: "Sun" }));
    expect(now().pocs[0]?.handWatering?.[0]?.window.days).toEqual(["sun"]);
    await user.click(screen.getByRole("button", { name: "Remove" }));
    expect(now().pocs[0]).not.toHaveProperty("handWatering");
    expect(screen.getByText(/No hours, so any flow while nothing runs is off schedule/)).toBeInTheDocument();
  });
  it("begins in gallons on a US site, at a round figure", async () => {
    const { user } = renderOnSite(
      smallSite((s) => {
        s.site.units = "us";
      }),
      <HandWateringPanel />,
    );
    await user.click(screen.getByRole("button", { name: "hours" }));
    expect(field("Flow allowed, gal/min")).toHaveValue("10");
  });
  it("is only read by who only looks", () => {
    renderOnSite(watered(40), <HandWateringPanel />, { role: "viewer" });
    expect(screen.queryByRole("button", { name: "hours" })).toBeNull();
    expect(screen.queryByRole("button", { name: "Remove" })).toBeNull();
    expect(field("from")).toBeDisabled();
  });
});

describe("one station's own limits", () => {
  const sight = (file: SiteFile, id: string) => {
    const found = sightOf(file, plan(file, "2026-07-14").runs).find((s) => s.stationId === id);
    if (!found) throw new Error(`no station ${id}`);
    return found;
  };
  it("are told alone and in the fullest set it runs in", () => {
    const file = smallSite();
    const station = file.stations[2] as SiteFile["stations"][number];
    renderOnSite(file, <StationLimits station={station} sight={sight(file, "s3")} nights={null} />);
    const own = screen.getByRole("region", { name: "Selected station" });
    expect(own).toHaveTextContent(/3 S3.*expected 50 L\/min/);
    expect(own).toHaveTextContent(/Alone it trips above 60 L\/min, below (37|38|37\.5) L\/min/);
    expect(own).toHaveTextContent(/In the fullest set, with 1 other: above 180 L\/min/);
    expect(own).toHaveTextContent(/its valve never opening would (be seen|pass unseen)/);
  });
  it("stand as a table with what a break would read", async () => {
    const file = smallSite();
    const onSelect = vi.fn();
    const { user, now } = renderOnSite(
      file,
      <JawTable
        rows={["s1", "s3"].map((id) => sight(file, id))}
        company="alone"
        watched={new Map([["s1", 0.55]])}
        selected="s3"
        onSelect={onSelect}
        inherits={(_s, key) => `${file.policy[key]} (site)`}
      />,
    );
    const [first, third] = within(screen.getByRole("table", { name: "Limits as a table" }))
      .getAllByRole("row")
      .slice(1) as [HTMLElement, HTMLElement];
    expect(third).toHaveAttribute("aria-selected", "true");
    expect(within(first).getByText("55 %")).toHaveClass("text-warning");
    expect(third).toHaveTextContent("does not run");
    await user.click(within(first).getByRole("button", { name: "1 S1" }));
    expect(onSelect).toHaveBeenCalledWith("s1");
    await user.type(field("Low limit of 3 S3"), "40{Enter}");
    expect(now().stations[2]?.lowPercent).toBe(40);
    expect(now().stations[0]).not.toHaveProperty("lowPercent");
  });
});
