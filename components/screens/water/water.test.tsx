import { screen, waitFor, within } from "@testing-library/react";
import { afterEach, beforeEach, describe, expect, it, vi } from "vitest";
import type { OfficeWater } from "@/contracts/water";
import { officeWaterCsv } from "@/core/record/water-csv";
import { server, show } from "@/testing/page-server";
import { WaterScreen } from "./water-screen";

vi.mock("next/navigation", () => import("@/testing/navigation-here"));
vi.mock("@/components/frame/alarm-toasts", () => ({ AlarmToasts: () => null }));
vi.mock("@/components/charts/water-chart", () => ({ WaterChart: () => null }));

const site = (name: string, more: object = {}): OfficeWater["sites"][number] => ({
  siteId: name.toLowerCase(),
  site: name,
  client: null,
  litres: 120_000,
  lostL: 4000,
  estimatedL: 0,
  beforeL: null,
  budgetM3: 100,
  ...more,
});
const WATER: OfficeWater = {
  from: "2025-06",
  to: "2026-05",
  months: [{ month: "2026-05", litres: 150_000, lostL: 4000, estimatedL: 0 }],
  sites: [
    site("Mill", { client: "Fenner Care" }),
    site("Yard", { litres: 30_000, lostL: 0, budgetM3: null }),
    site("New", { litres: null, lostL: null, estimatedL: null }),
  ],
};
beforeEach(() => window.history.replaceState(null, "", "/water?to=2026-05"));
afterEach(() => vi.unstubAllGlobals());

describe("water of all sites", () => {
  it("is told in all and by site, those that used most first, each with the way to its own", async () => {
    const sent = server(({ path }) => (path.includes("/api/water") ? WATER : { units: "metric" }));
    const user = show(<WaterScreen who="Ada Fennimore, manager" />);
    expect(await screen.findByText(/4 m³/)).toBeVisible();
    expect(screen.getByText("150 m³")).toBeVisible();
    expect(screen.getByText(/at 2 of 3 sites/)).toHaveTextContent("2.7 %");
    const rows = within(screen.getByRole("table", { name: "Water by site" }))
      .getAllByRole("row")
      .slice(1);
    expect(rows.map((r) => within(r).getByRole("link").textContent)).toEqual(["MillFenner Care", "Yard", "New"]);
    expect(within(rows[0] as HTMLElement).getByRole("link")).toHaveAttribute("href", "/sites/mill/log?view=water");
    expect(rows[0]).toHaveTextContent(/120.*4.*120$/);
    await user.click(screen.getByRole("button", { name: "The month before" }));
    await waitFor(() => expect(sent.some((s) => s.path === "/api/water?from=2025-05&to=2026-04")).toBe(true));
  });
  it("goes out as CSV in cubic metres; formulas stay words", () => {
    expect(officeWaterCsv([site("=1+1", { client: "A, B", beforeL: 1234.5678 })])).toBe(
      'site,client,used m3,leaks and breaks m3,not read as planned m3,a year before m3,budget m3\n\'=1+1,"A, B",120,4,0,1.235,100\n',
    );
  });
});
