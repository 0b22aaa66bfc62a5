import { screen } from "@testing-library/react";
import { describe, expect, it } from "vitest";
import { useWorkspace } from "@/components/draft/site-draft";
import type { SiteFile, Station } from "@/core/site-file/schema";
import { renderOnSite, type SiteAround } from "@/testing/site-around";
import { smallSite } from "@/testing/small-site";
import { StationSheet } from "./station-sheet";

function First() {
  const { draft } = useWorkspace("draft");
  return <StationSheet station={draft.stations[0] as Station} />;
}
const drawn = (change: (station: Station) => void = () => {}, units: "us" | "metric" = "metric"): SiteAround =>
  renderOnSite(
    smallSite((s: SiteFile) => {
      s.site.units = units;
      change(s.stations[0] as Station);
    }),
    <First />,
  );
const type = async ({ user }: SiteAround, name: string | RegExp, text: string): Promise<void> => {
  const field = screen.getByRole("textbox", { name });
  await user.clear(field);
  await user.type(field, `${text}{Enter}`);
};

describe("aids for a station", () => {
  it("outlets times the flow of one are its design flow; without outlets it keeps its figure", async () => {
    const site = drawn();
    await type(site, "Outlets", "12");
    await type(site, /^Flow of one/, "5.5");
    expect(site.now().stations[0]).toMatchObject({ designFlowLpm: 66, emitters: { count: 12, lpmEach: 5.5 } });
    await type(site, "Outlets", "0");
    expect(site.now().stations[0]).toMatchObject({ designFlowLpm: 0 });
  });
  it("a figure for one outlet alone stands for one outlet, and emptied it lets the outlets go", async () => {
    const site = drawn();
    await type(site, /^Flow of one/, "5.5");
    expect(site.now().stations[0]?.emitters).toEqual({ count: 1, lpmEach: 5.5 });
    await type(site, "Outlets", " ");
    expect(site.now().stations[0]?.emitters).toBeUndefined();
  });
  it("an area gives the rain rate, and minutes for a depth", async () => {
    const site = drawn();
    expect(screen.getByText(/With an area: the rain rate/)).toBeInTheDocument();
    await type(site, "Area, m²", "500");
    expect(screen.getByText("12 mm/h")).toBeInTheDocument();
    await type(site, "Depth to put on, mm", "6");
    expect(screen.getByText("30 min")).toBeInTheDocument();
  });
  it("on a US site in square feet, inches and inches an hour", async () => {
    const site = drawn(() => {}, "us");
    await type(site, "Area, ft²", "5382");
    expect(site.now().stations[0]?.areaM2).toBeCloseTo(500, 1);
    expect(screen.getByText("0.472 in/h")).toBeInTheDocument();
    await type(site, "Depth to put on, in", "0.25");
    expect(screen.getByText("31.8 min")).toBeInTheDocument();
    expect(screen.queryByText(/mm/)).toBeNull();
  });
  it("ground that does not take it in gets cycles and a soak, in one step of undo", async () => {
    const site = drawn((s) => {
      s.areaM2 = 200;
    });
    await site.user.selectOptions(screen.getByRole("combobox", { name: "Soil" }), "clay");
    await type(site, "Slope, %", "8");
    await site.user.click(screen.getByRole("button", { name: "Take cycle and soak" }));
    const { cycle, soakMin } = site.now().stations[0] as Station;
    expect(cycle).toHaveProperty("longestMin");
    expect(soakMin).toBeGreaterThan(0);
    site.draft.store.temporal.getState().undo();
    expect(site.now().stations[0]?.cycle).toBeUndefined();
  });
  it("sand takes it in", async () => {
    const site = drawn((s) => {
      s.areaM2 = 2000;
    });
    await site.user.selectOptions(screen.getByRole("combobox", { name: "Soil" }), "sand");
    expect(screen.getByText(/no cycles needed/)).toBeInTheDocument();
  });
});
