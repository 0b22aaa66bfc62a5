import { screen, within } from "@testing-library/react";
import type { UserEvent } from "@testing-library/user-event";
import { afterEach, beforeEach, describe, expect, it, vi } from "vitest";
import { useWorkspace } from "@/components/draft/site-draft";
import type { Device, DeviceOf, SiteFile } from "@/core/site-file/schema";
import { renderOnSite } from "@/testing/site-around";
import { smallSite } from "@/testing/small-site";
import { ControllerForm } from "./controller-form";
import { DeviceForm } from "./device-form";
import { MainlineForm, PocForm, SourceForm } from "./element-forms";

beforeEach(() => {
  vi.stubGlobal(
    "fetch",
    async () => new Response(JSON.stringify({ items: [] }), { headers: { "content-type": "application/json" } }),
  );
});
afterEach(() => vi.unstubAllGlobals());

/** A form of something in the draft, drawn anew as the draft changes. */
function Of<T>({ pick, children }: { pick: (file: SiteFile) => T; children: (value: T) => React.ReactNode }) {
  const { draft } = useWorkspace("draft");
  return children(pick(draft));
}
const put = async (user: UserEvent, label: string | RegExp, text: string): Promise<void> => {
  const field = screen.getByLabelText(label);
  await user.clear(field);
  if (text !== "") await user.type(field, text);
  await user.tab();
};
const deviceOf = <K extends Device["kind"]>(file: SiteFile, kind: K): DeviceOf<K> =>
  [...(file.pocs[0]?.devices ?? []), ...(file.mainlines[0]?.pipes ?? [])].find((d) => d.kind === kind) as DeviceOf<K>;
const form = <K extends Device["kind"]>(kind: K, device: object | null, us = false) =>
  renderOnSite(
    smallSite((s) => {
      if (us) s.site.units = "us";
      if (device) s.pocs[0]?.devices.push({ id: "new", kind, ...device } as Device);
    }),
    <Of pick={(f) => deviceOf(f, kind)}>{(d) => <DeviceForm device={d} />}</Of>,
  );

describe("a source", () => {
  const open = (us = false) =>
    renderOnSite(
      smallSite((s) => {
        if (us) s.site.units = "us";
      }),
      <Of pick={(f) => f.sources[0] as SiteFile["sources"][number]}>{(s) => <SourceForm source={s} />}</Of>,
    );
  it("keeps figures in base units, typed in the site's own, sums too", async () => {
    const { user, now } = open(true);
    await put(user, /^Sustained yield/, "100+20");
    await put(user, /^Static pressure/, "60");
    expect(now().sources[0]?.yieldLpm).toBeCloseTo(120 * 3.785411784, 6);
    expect(now().sources[0]?.staticPressureKpa).toBeCloseTo(60 * 6.894757293, 6);
    await put(user, /^Static pressure/, "");
    expect(now().sources[0]?.staticPressureKpa).toBeUndefined();
  });
  it("a flow test is a drop at a flow: either may be entered first", async () => {
    const { user, now } = open();
    await put(user, /^at a flow of/, "300");
    expect(now().sources[0]?.pressureDropKpaAt).toEqual({ flowLpm: 300, dropKpa: 0 });
    await put(user, /^Pressure it loses/, "90");
    expect(now().sources[0]?.pressureDropKpaAt).toEqual({ flowLpm: 300, dropKpa: 90 });
  });
  it("out of its range is refused in words, and what stood stands", async () => {
    const { user, now } = open();
    const before = now();
    await put(user, /^Priority/, "-3");
    expect(screen.getByLabelText(/^Priority/)).toHaveAttribute("aria-invalid", "true");
    expect(now()).toBe(before);
  });
  it("drinking water goes by its kind until someone says otherwise; reclaimed water brings its caution", async () => {
    const { user, now } = open();
    expect(screen.getByLabelText("drinking water")).toBeChecked();
    await user.selectOptions(screen.getByLabelText("Kind"), "reclaimed");
    expect(screen.getByLabelText("drinking water")).not.toBeChecked();
    expect(screen.getByText(/not for drinking/)).toBeInTheDocument();
    await user.click(screen.getByLabelText("in use"));
    expect(now().sources[0]?.enabled).toBe(false);
  });
});

describe("a connection and a main", () => {
  it("a connection draws on the sources that are ticked, and keeps its reasons", async () => {
    const { user, now } = renderOnSite(
      smallSite((s) => {
        s.sources.push({ id: "well", name: "Well", kind: "well" });
      }),
      <Of pick={(f) => f.pocs[0] as SiteFile["pocs"][number]}>{(p) => <PocForm poc={p} />}</Of>,
    );
    await user.click(screen.getByLabelText("Well"));
    expect(now().pocs[0]?.sourceIds).toEqual(["src", "well"]);
    await user.click(screen.getByLabelText("Source"));
    expect(now().pocs[0]?.sourceIds).toEqual(["well"]);
    await put(user, /^Ceiling by hand/, "200");
    await put(user, "Reason", "as the city allows");
    expect(now().pocs[0]).toMatchObject({ ceilingLpm: 200, ceilingReason: "as the city allows" });
    await put(user, "Reason", "");
    expect(now().pocs[0]?.ceilingReason).toBeUndefined();
  });
  it("a main is never offered what it feeds itself", () => {
    renderOnSite(
      smallSite((s) => {
        s.mainlines.push({ id: "branch", name: "Branch", feedIds: ["main"], pipes: [] });
      }),
      <Of pick={(f) => f.mainlines[0] as SiteFile["mainlines"][number]}>{(m) => <MainlineForm mainline={m} />}</Of>,
    );
    const feeds = within(screen.getByRole("group", { name: "Fed by" }));
    expect(feeds.getByLabelText("Poc")).toBeChecked();
    expect(feeds.queryByLabelText("Branch")).toBeNull();
  });
});

describe("a controller", () => {
  const open = () =>
    renderOnSite(
      smallSite(),
      <Of pick={(f) => f.controllers[0] as SiteFile["controllers"][number]}>
        {(c) => <ControllerForm controller={c} />}
      </Of>,
    );
  const controller = (f: SiteFile) => f.controllers[0] as SiteFile["controllers"][number];
  it("is linked, or has a share, hours or neither; each asks for its own, and leaves nothing of the other", async () => {
    const { user, now } = open();
    const linking = screen.getByLabelText("With the other controllers");
    await user.selectOptions(linking, "unlinked, a fixed share");
    await put(user, /^Share of every ceiling/, "30");
    expect(controller(now())).toMatchObject({ unlinked: true, unlinkedShare: 0.3 });
    await user.selectOptions(linking, "unlinked, hours of its own");
    expect(controller(now()).unlinkedShare).toBeUndefined();
    expect(controller(now()).unlinkedHours).toEqual([{ from: "01:00", to: "05:00" }]);
    await user.selectOptions(linking, "unlinked, neither settled");
    expect(screen.getByText(/It will open valves whatever the others run/)).toBeInTheDocument();
    await user.selectOptions(linking, "linked: one dispatch");
    expect(controller(now()).unlinked).toBeUndefined();
  });
  it("names its kind, and is off when one says so", async () => {
    const { user, now } = open();
    await user.selectOptions(screen.getByLabelText("Kind, by its profile"), "Plain wall clock");
    expect(controller(now()).profileId).toBe("invented-plain");
    await user.click(screen.getByLabelText("off"));
    expect(controller(now()).off).toBe(true);
  });
});

describe("a device's sheet", () => {
  it("a meter's loss is a pressure at a flow", async () => {
    const { user, now } = form("meter", { continuousMaxLpm: 500 });
    await put(user, /^Loss/, "25");
    expect(deviceOf(now(), "meter").lossKpaAt).toEqual({ flowLpm: 500, lossKpa: 25 });
    await put(user, /^at flow/, "400");
    expect(deviceOf(now(), "meter").lossKpaAt).toEqual({ flowLpm: 400, lossKpa: 25 });
    await put(user, /^Loss/, "");
    expect(deviceOf(now(), "meter").lossKpaAt).toBeUndefined();
  });
  it("a master valve tells Cv beside its Kv, and which coil it has", async () => {
    const { user, now } = form("masterValve", null);
    await put(user, /^Kv/, "17.3");
    expect(screen.getByText("Cv 20.0")).toBeInTheDocument();
    await user.selectOptions(screen.getByLabelText("Coil"), "latching DC");
    await user.selectOptions(screen.getByLabelText("Normally"), "open");
    expect(deviceOf(now(), "masterValve")).toMatchObject({ kv: 17.3, coil: "dcLatching", normally: "open" });
  });
  it("a pump has its caution at hand; equal ones beside it count", async () => {
    const curve = [
      { flowLpm: 0, headM: 60 },
      { flowLpm: 300, headM: 20 },
    ];
    const { user, now } = form("pump", { curve });
    expect(screen.getByText(/must not run against a closed valve/)).toBeInTheDocument();
    await put(user, /^Equal pumps side by side/, "2");
    expect(deviceOf(now(), "pump").parallel).toBe(2);
    await put(user, /^Equal pumps side by side/, "1");
    expect(deviceOf(now(), "pump").parallel).toBeUndefined();
  });
  it("a pump's curve is typed in the site's units, and must rise in flow", async () => {
    const curve = [
      { flowLpm: 0, headM: 60.96 },
      { flowLpm: 378.5411784, headM: 30.48 },
    ];
    const { user, now } = form("pump", { curve }, true);
    const field = screen.getByLabelText("Curve: one point a line, gal/min and ft of head");
    expect(field).toHaveValue("0 200\n100 100");
    await user.clear(field);
    await user.type(field, "0 200{Enter}100 100{Enter}90 20");
    await user.tab();
    expect(screen.getByText("The flows must rise from line to line.")).toBeInTheDocument();
    expect(deviceOf(now(), "pump").curve).toEqual(curve);
    await user.clear(field);
    await user.type(field, "0 200{Enter}150 50");
    await user.tab();
    expect(deviceOf(now(), "pump").curve[1]).toEqual({
      flowLpm: expect.closeTo(150 * 3.785411784, 6),
      headM: expect.closeTo(15.24, 6),
    });
  });
  it("a pipe's bore comes from the table; faster than usual asks for a reason, in the site's units", async () => {
    const { user, now } = renderOnSite(
      smallSite((s) => {
        s.site.units = "us";
        s.mainlines[0]?.pipes.push({
          id: "run",
          kind: "pipe",
          material: "PVC",
          series: "SCH40",
          nominal: "2 in",
          lengthM: 30.48,
        });
      }),
      <Of pick={(f) => deviceOf(f, "pipe")}>{(d) => <DeviceForm device={d} />}</Of>,
    );
    expect(screen.getByText(/^inside 2\.0\d+ in/)).toBeInTheDocument();
    expect(screen.getByLabelText(/^Length/)).toHaveValue("100");
    const velocity = screen.getByLabelText(/^Largest velocity/);
    expect(velocity).toHaveAttribute("placeholder", "4.92");
    expect(screen.getByLabelText("Reason for more than 4.92 ft/s")).toBeDisabled();
    await put(user, /^Largest velocity/, "6");
    expect(deviceOf(now(), "pipe").maxVelocityMs).toBeCloseTo(6 * 0.3048, 6);
    expect(screen.getByLabelText("Reason for more than 4.92 ft/s")).toBeEnabled();
    await user.selectOptions(screen.getByLabelText("Nominal size"), "3 in");
    expect(deviceOf(now(), "pipe").nominal).toBe("3 in");
  });
  it("a pressure sensor has a low and a high limit; an empty one is none", async () => {
    const { user, now } = form("pressureSensor", {});
    await put(user, /^Low limit/, "200");
    await put(user, /^High limit/, "600");
    expect(deviceOf(now(), "pressureSensor")).toMatchObject({ lowKpa: 200, highKpa: 600 });
    await put(user, /^Low limit/, "");
    expect(deviceOf(now(), "pressureSensor").lowKpa).toBeUndefined();
  });
  it("nothing of it is changed by who only looks", () => {
    renderOnSite(smallSite(), <Of pick={(f) => deviceOf(f, "masterValve")}>{(d) => <DeviceForm device={d} />}</Of>, {
      role: "viewer",
    });
    for (const field of screen.getAllByRole("textbox")) expect(field).toBeDisabled();
    for (const field of screen.getAllByRole("combobox")) expect(field).toBeDisabled();
  });
});
