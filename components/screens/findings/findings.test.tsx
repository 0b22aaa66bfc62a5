import { screen, within } from "@testing-library/react";
import { describe, expect, it, vi } from "vitest";
import { pressureFindings } from "@/core/check/pressure";
import type { SiteFile } from "@/core/site-file/schema";
import { renderOnSite } from "@/testing/site-around";
import { smallSite } from "@/testing/small-site";
import { FindingsScreen } from "./findings-screen";
import { placeOf } from "./place-of";

vi.mock("next/navigation", () => import("@/testing/navigation-here"));
vi.mock("@/components/draft/compute", () => import("@/testing/compute-here"));

const section = (name: string | RegExp): HTMLElement => screen.getByRole("region", { name });
/** Station 3 wants more pressure than the source has. */
const short = (s: SiteFile): void => {
  Object.assign(s.sources[0] as object, { staticPressureKpa: 300 });
  Object.assign(s.stations[2] as object, { requiredKpa: 400 });
};

describe("findings", () => {
  it("of the site stand errors first, each with shape, word and the way to where it is mended", async () => {
    renderOnSite(
      smallSite((s) => {
        (s.pocs[0] as { sourceIds: string[] }).sourceIds = [];
        s.programs[0]?.runs.pop();
      }),
      <FindingsScreen />,
    );
    const rows = within(section("The site")).getAllByRole("listitem");
    expect(rows.map((r) => /error|warning|note/.exec(r.textContent ?? "")?.[0])).toEqual(
      [...rows.map((r) => /error|warning|note/.exec(r.textContent ?? "")?.[0])].sort(),
    );
    const source = rows.find((r) => r.textContent?.includes("draws on no source")) as HTMLElement;
    expect(within(source).getByRole("link", { name: "Go there" })).toHaveAttribute(
      "href",
      "/sites/site/waterworks?at=poc",
    );
    const left = rows.find((r) => r.textContent?.includes("is in no program")) as HTMLElement;
    expect(within(left).getByRole("link", { name: "Go there" })).toHaveAttribute("href", "/sites/site/stations?at=s3");
  });
  it("of pressure stand apart, worked out by the network", async () => {
    renderOnSite(smallSite(short), <FindingsScreen />);
    const load = section("Pressure under load");
    expect(within(load).getByRole("status")).toHaveTextContent("Solving the network");
    expect(
      await within(load).findByText(/Station 3 S3: alone, its valve has .* kPa; it requires 400 kPa/),
    ).toBeVisible();
  });
  it("where no valve is short say so", async () => {
    renderOnSite(
      smallSite((s) => void Object.assign(s.sources[0] as object, { staticPressureKpa: 500 })),
      <FindingsScreen />,
    );
    expect(await within(section("Pressure under load")).findByText("No valve is short of pressure.")).toBeVisible();
  });
  it("of the night shown are told with its date", async () => {
    renderOnSite(
      smallSite((s) => {
        (s.mainlines[0] as { ceilingLpm: number }).ceilingLpm = 90;
      }),
      <FindingsScreen />,
    );
    expect(await screen.findByRole("region", { name: "The night of 14 Jul 2026" })).toHaveTextContent("above");
  });
  it("write figures in the site's units", () => {
    renderOnSite(
      smallSite((s) => {
        s.site.units = "us";
        Object.assign(s.pocs[0]?.devices[0] as object, { normally: "open" });
      }),
      <FindingsScreen />,
    );
    const open = within(section("The site")).getByText(/normally open/);
    expect(open).toHaveTextContent("52.8 gal/min for 8 h is 25,361 gal");
    expect(open).not.toHaveTextContent("L/min");
  });
  it("of one more station that is short, count one", async () => {
    const site = smallSite(short);
    Object.assign(site.stations[2] as object, { requiredKpa: 0 });
    const [found] = await pressureFindings(site, {
      alone: [],
      design: {
        unbalanced: false,
        worst: { stationId: "s3", kPa: 100, requiredKpa: 200, marginKpa: -100 },
        stations: [
          { stationId: "s3", kPa: 100, requiredKpa: 200, marginKpa: -100 },
          { stationId: "s2", kPa: 150, requiredKpa: 200, marginKpa: -50 },
        ],
      },
      night: [],
      assumptions: [],
      unknown: [],
    } as never);
    expect(found?.message).toContain("and 1 more is short too");
  });
});

describe("a finding leads", () => {
  it.each([
    ["pressureAlone", "stations[0].requiredKpa", "s1", "waterworks?view=pressure"],
    ["overCurrent", "controllers[0]", "ctl", "waterworks?view=devices"],
    ["noBands", "policy.bands", "small", "limits"],
    ["noBurstLimit", "pocs[0].burstLimitLpm", "poc", "limits?view=mains"],
    ["openValveOnlyNotifies", "pocs[0].offScheduleResponse", "poc", "limits?view=mains"],
    ["lockedOut", "stations[1].lockedOut", "s2", "log"],
    ["sensorCheckFailed", "pocs[0].devices[1].checks", "fs", "sensors?at=fs"],
    ["noFlow", "stations[1]", "s2", "stations?at=s2"],
    ["noDays", "programs[0].days", "p", "programs?at=p"],
    ["overBudget", "programs", "src", "programs?view=site"],
    ["inputBypassed", "weatherInputs[0].bypassed", "rain", "programs?view=site"],
    ["sensorRangeUnknown", "pocs[0].devices[1]", "fs", "sensors?at=fs"],
    ["noSensor", "pocs[0].devices", "poc", "waterworks?at=poc"],
    ["unknownPipe", "mainlines[0].pipes[0]", "a&b", "waterworks?at=a%26b"],
  ])("from %s at %s to its place", (code, path, subjectId, place) => {
    expect(placeOf({ code, path, subjectId })).toBe(place);
  });
});
