import { screen, within } from "@testing-library/react";
import { describe, expect, it } from "vitest";
import type { SiteFile } from "@/core/site-file/schema";
import { renderOnSite } from "@/testing/site-around";
import { smallSite } from "@/testing/small-site";
import { HandWateringPanel } from "./hand-watering-panel";
import { InheritedPanel } from "./inherited-panel";
import { PolicyForm } from "./policy-form";
import { PressureLimits } from "./pressure-limits";

const field = (name: string | RegExp): HTMLElement => screen.getByRole("textbox", { name });
const chosen = (name: string): HTMLElement => screen.getByRole("combobox", { name });

describe("the limits of the site", () => {
  it("a school fills every figure; a figure of one's own is no school any more", async () => {
    const { user, now } = renderOnSite(smallSite(), <PolicyForm />);
    await user.selectOptions(chosen("School to start from"), "steady");
    expect(now().policy.preset).toBe("steady");
    const high = now().policy.highPercent;
    expect(field("High, % above")).toHaveValue(String(high));
    await user.clear(field("High, % above"));
    await user.type(field("High, % above"), `${high + 7}{Enter}`);
    expect(now().policy.highPercent).toBe(high + 7);
    expect(now().policy.preset).toBeUndefined();
    expect(chosen("School to start from")).toHaveValue("own");
  });

  it("graded limits have their bands, kept in the order of their flow", async () => {
    const { user, now } = renderOnSite(smallSite(), <PolicyForm />);
    expect(screen.queryByRole("group", { name: "Bands" })).toBeNull();
    await user.selectOptions(chosen("Counted"), "graded");
    const bands = within(screen.getByRole("group", { name: "Bands" }));
    await user.click(bands.getByRole("button", { name: "Band" }));
    await user.click(bands.getByRole("button", { name: "Band" }));
    expect(now().policy.bands?.map((b) => b.fromLpm)).toEqual([100, 200]);
    const first = bands.getAllByRole("textbox", { name: "From, L/min" })[0] as HTMLElement;
    await user.clear(first);
    await user.type(first, "400{Enter}");
    expect(now().policy.bands?.map((b) => b.fromLpm)).toEqual([200, 400]);
    await user.click(bands.getByRole("button", { name: "Remove band 1" }));
    await user.click(bands.getByRole("button", { name: "Remove band 1" }));
    expect(now().policy.bands).toBeUndefined();
  });

  it("the wait before a retest is asked for only where there is a retest", async () => {
    const { user, now } = renderOnSite(smallSite(), <PolicyForm />);
    expect(screen.queryByRole("textbox", { name: "Wait before retest, s" })).toBeNull();
    await user.click(screen.getByRole("checkbox", { name: "retest once" }));
    await user.type(field("Wait before retest, s"), "90{Enter}");
    expect(now().policy).toMatchObject({ retest: true, retestWaitS: 90 });
  });

  it("a viewer can look only", () => {
    renderOnSite(smallSite(), <PolicyForm />, { role: "viewer" });
    for (const f of [...screen.getAllByRole("textbox"), ...screen.getAllByRole("combobox")]) expect(f).toBeDisabled();
  });
});

describe("limits of connections and mains", () => {
  it("say where each figure is from, and pass on what a connection has of its own", async () => {
    const { user, now } = renderOnSite(smallSite(), <InheritedPanel />);
    expect(field("High limit of Main")).toHaveAttribute("placeholder", "20 (site)");
    await user.type(field("High limit of Poc"), "35{Enter}");
    expect(now().pocs[0]?.policy?.highPercent).toBe(35);
    expect(field("High limit of Main")).toHaveAttribute("placeholder", "35 (Poc)");
    await user.clear(field("High limit of Poc"));
    await user.keyboard("{Enter}");
    expect(now().pocs[0]?.policy).toBeUndefined();
  });
});

describe("burst and off-schedule flow", () => {
  it("have limit, delay and response at each connection; what is usual stands in their place", async () => {
    const { user, now } = renderOnSite(smallSite(), <InheritedPanel />);
    expect(field("Burst delay of Poc")).toHaveAttribute("placeholder", "15");
    expect(field("Off-schedule delay of Poc")).toHaveAttribute("placeholder", "120");
    await user.type(field("Burst limit of Poc"), "420{Enter}");
    await user.type(field("Burst delay of Poc"), "20{Enter}");
    await user.selectOptions(chosen("Response to a burst of Poc"), "stop station");
    await user.selectOptions(chosen("Response to off-schedule flow of Poc"), "stop all");
    expect(now().pocs[0]).toMatchObject({
      burstLimitLpm: 420,
      burstPersistenceS: 20,
      burstResponse: "stopStation",
      offScheduleResponse: "stopAll",
    });
    await user.clear(field("Burst delay of Poc"));
    await user.keyboard("{Enter}");
    expect(now().pocs[0]?.burstPersistenceS).toBeUndefined();
  });
});

describe("pressure", () => {
  const gauged = (more: object = {}) =>
    smallSite((s) => {
      s.pocs[0]?.devices.push({ id: "ps", kind: "pressureSensor", name: "Gate gauge", lowKpa: 300, ...more } as never);
    });
  const gauge = (site: SiteFile) => site.pocs[0]?.devices.find((d) => d.id === "ps");
  it("has limits, a persistence and a response at each sensor; what is not its own is the flow limits'", async () => {
    const { user, now } = renderOnSite(gauged(), <PressureLimits />);
    const persistence = screen.getByRole("textbox", { name: "Persistence of Gate gauge" });
    expect(persistence).toHaveAttribute("placeholder", "60");
    await user.type(persistence, "20{Enter}");
    await user.type(screen.getByRole("textbox", { name: "High limit of Gate gauge" }), "700{Enter}");
    const response = screen.getByRole("combobox", { name: "Response of Gate gauge" });
    expect(response).toHaveDisplayValue("as the flow limit");
    await user.selectOptions(response, "stop all, lock out");
    expect(gauge(now())).toMatchObject({ lowKpa: 300, highKpa: 700, persistenceS: 20, response: "stopAll" });
    await user.selectOptions(response, "as the flow limit");
    await user.clear(persistence);
    await user.tab();
    expect(gauge(now())).not.toHaveProperty("response");
    expect(gauge(now())).not.toHaveProperty("persistenceS");
  });
  it("that would search for a station says what it does instead", () => {
    renderOnSite(gauged({ response: "findAndIsolate" }), <PressureLimits />);
    expect(screen.getByRole("combobox", { name: "Response of Gate gauge" })).toHaveDisplayValue("stop what runs");
  });
  it("is not asked for where no connection has a sensor", () => {
    const { container } = renderOnSite(smallSite(), <PressureLimits />);
    expect(container).not.toHaveTextContent("Pressure");
  });
});

describe("hand watering", () => {
  it("hours are added at a connection, with days, times and a flow", async () => {
    const { user, now } = renderOnSite(smallSite(), <HandWateringPanel />);
    const at = within(screen.getByRole("group", { name: "Hand watering at Poc" }));
    await user.click(at.getByRole("button", { name: "hours" }));
    const from = at.getByRole("textbox", { name: "from" });
    await user.clear(from);
    await user.type(from, "0630{Enter}");
    await user.click(at.getByRole("button", { name: "Sun" }));
    const hours = now().pocs[0]?.handWatering?.[0];
    expect(hours?.window.from).toBe("06:30");
    expect(hours?.window.days).not.toContain("sun");
    expect(hours?.flowLpm).toBeGreaterThan(0);
  });
});
