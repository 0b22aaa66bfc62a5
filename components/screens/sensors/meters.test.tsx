import { screen, waitFor, within } from "@testing-library/react";
import { afterEach, beforeEach, describe, expect, it, vi } from "vitest";
import { conventions } from "@/components/kit/conventions";
import type { CounterView, MeterLog } from "@/contracts/meters";
import { refused, server } from "@/testing/page-server";
import { renderOnSite } from "@/testing/site-around";
import { smallSite } from "@/testing/small-site";
import { verdictOfMeter } from "./meter-words";
import { SensorsScreen } from "./sensors-screen";

vi.mock("next/navigation", () => import("@/testing/navigation-here"));

const withMeter = () => smallSite((s) => s.pocs[0]?.devices.unshift({ id: "wm", kind: "meter", name: "Yard meter" }));
const open = (view: string) => {
  window.history.replaceState(null, "", `/sites/site/sensors?view=${view}`);
  return renderOnSite(withMeter(), <SensorsScreen />);
};
beforeEach(() => window.history.replaceState(null, "", "/sites/site/sensors"));
afterEach(() => vi.unstubAllGlobals());

const counter = (n: 1 | 2, litres: number, more: Partial<CounterView> = {}): CounterView => ({
  sensorId: "fs",
  counter: n,
  litres,
  since: null,
  by: null,
  reason: null,
  ...more,
});
const cells = (row: HTMLElement): string[] => [...row.children].map((c) => c.textContent ?? "");

describe("the counters", () => {
  it("stand with since when, by whom and why; one is begun anew only with a reason", async () => {
    let counters = [
      counter(1, 12_340),
      counter(2, 98_000, { since: "2026-01-01T07:00:00Z", by: "Odd", reason: "a new year" }),
    ];
    const sent = server(({ method, body }) => {
      if (method === "POST") {
        const { reason } = body as { reason: string };
        counters = [counter(1, 0, { since: "2026-07-14T08:00:00Z", by: "Ada", reason }), ...counters.slice(1)];
      }
      return { counters };
    });
    const { user } = open("counters");
    const table = await screen.findByRole("table", { name: "Counters" });
    const rows = () => within(table).getAllByRole("row").slice(1).map(cells);
    expect(rows()).toMatchObject(
      [
        ["Poc", "first", "12.34", "the first reading", "–"],
        ["Poc", "second", "98.00", "1 Jan 2026 08:00, Odd", "a new year"],
      ].map((r) => expect.arrayContaining(r)),
    );
    await user.click(screen.getAllByRole("button", { name: "Begin anew…" })[0] as HTMLElement);
    const dialog = screen.getByRole("dialog");
    await user.click(within(dialog).getByRole("button", { name: "Begin anew" }));
    expect(await within(dialog).findByText(/^Say why/)).toBeInTheDocument();
    expect(sent.filter((s) => s.method === "POST")).toEqual([]);
    await user.type(within(dialog).getByLabelText("Why"), "a new month");
    await user.click(within(dialog).getByRole("button", { name: "Begin anew" }));
    await waitFor(() =>
      expect(rows()[0]).toEqual(expect.arrayContaining(["0.00", "14 Jul 2026 10:00, Ada", "a new month"])),
    );
    expect(sent.findLast((s) => s.method === "POST")?.body).toMatchObject({ sensorId: "fs", counter: 1 });
  });
});

const LOG: MeterLog = {
  meterId: "wm",
  sensorIds: ["fs"],
  verdict: { is: "unseen", litresADay: 420 },
  readings: [
    {
      id: "r2",
      at: "2026-07-14T08:00:00.000Z",
      m3: 120.5,
      begins: false,
      note: "by the gate",
      photoId: null,
      by: "Ada",
      between: { meterM3: 20.5, sensorM3: 17.56, days: 7 },
    },
    {
      id: "r1",
      at: "2026-07-07T08:00:00.000Z",
      m3: 100,
      begins: false,
      note: "",
      photoId: null,
      by: "Ada",
      between: null,
    },
  ],
};

describe("the meter log", () => {
  it("tells what flowed beside the sensors, what the difference is, and takes another reading", async () => {
    const sent = server(() => ({ meters: [LOG] }));
    const { user } = open("meter");
    const meter = await screen.findByRole("region", { name: "Poc, Yard meter" });
    expect(within(meter).getByRole("note")).toHaveTextContent(/420 L a day more than the sensors/);
    expect(cells(within(meter).getAllByRole("row")[1] as HTMLElement).slice(0, 6)).toEqual([
      "14 Jul 2026 10:00, Ada",
      "120.500",
      "20.50",
      "17.56",
      "2.94",
      "by the gate ",
    ]);
    await user.click(screen.getByRole("button", { name: "Enter the reading" }));
    expect(await screen.findByText("What the meter shows is needed.")).toBeInTheDocument();
    await user.clear(screen.getByLabelText("Read on"));
    await user.type(screen.getByLabelText("Read on"), "20 Jul 2026");
    await user.clear(screen.getByLabelText("at"));
    await user.type(screen.getByLabelText("at"), "7:30");
    await user.type(screen.getByLabelText("It shows, m³"), "131.25");
    await user.type(screen.getByLabelText("Note"), "after the rain");
    await user.click(screen.getByRole("button", { name: "Enter the reading" }));
    await waitFor(() =>
      expect(sent.findLast((s) => s.method === "POST")?.body).toMatchObject({
        meterId: "wm",
        at: "2026-07-20T05:30:00.000Z",
        m3: 131.25,
        begins: false,
        note: "after the rain",
        photoId: null,
      }),
    );
    await waitFor(() => expect(screen.getByLabelText("It shows, m³")).toHaveValue(""));
  });
  it("keeps what was typed when it is refused, and says why", async () => {
    server(({ method }) =>
      method === "POST" ? refused(400, "badRequest", "It read more before.") : { meters: [LOG] },
    );
    const { user } = open("meter");
    await user.type(await screen.findByLabelText("It shows, m³"), "9");
    await user.click(screen.getByRole("button", { name: "Enter the reading" }));
    expect(await screen.findByText("It read more before.")).toBeInTheDocument();
    expect(screen.getByLabelText("It shows, m³")).toHaveValue("9");
  });
  it("has words for every verdict", () => {
    const metric = conventions("metric");
    const words = [
      { is: "none" as const },
      { is: "agrees" as const, share: 0.012 },
      { is: "constant" as const, factor: 0.9 },
      { is: "either" as const, factor: 1.1, litresADay: 300 },
      { is: "neither" as const, factor: 1.1, litresADay: 300 },
    ].map((v) => verdictOfMeter(v, metric));
    expect(words[1]).toContain("+1.2 %");
    expect(words[2]).toContain("−10.0 %");
    expect(words[3]).toContain("300 L a day");
    expect(new Set(words).size).toBe(5);
  });
});
