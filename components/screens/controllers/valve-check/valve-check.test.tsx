import { screen, waitFor, within } from "@testing-library/react";
import { afterEach, beforeEach, describe, expect, it, vi } from "vitest";
import type { ControllersStatus } from "@/contracts/controllers";
import type { ValveCheck } from "@/contracts/valve-checks";
import { type Sent, server } from "@/testing/page-server";
import { renderOnSite } from "@/testing/site-around";
import { smallSite } from "@/testing/small-site";
import { ValveCheckPanel } from "./valve-check-panel";

vi.mock("next/navigation", () => import("@/testing/navigation-here"));
vi.mock("@/components/draft/compute", () => import("@/testing/compute-here"));

const check = (id: string, at: string, values: number[], unit: ValveCheck["unit"] = "mA"): ValveCheck => ({
  id,
  controllerId: "ctl",
  at,
  how: "typed",
  unit,
  by: "Bo Larch",
  readings: values.map((value, i) => ({ stationId: `s${i + 1}`, value })),
});
const status = (speaks: ControllersStatus["speaks"]): ControllersStatus => ({
  speaks,
  simulated: true,
  state: "live",
  heardAt: null,
  setAside: { count: 0, words: null },
  refused: {},
  readBackAt: "05:00",
  controllers: [],
  sends: [],
  orders: [],
});
let checks: ValveCheck[];
let sent: Sent[];
const order = vi.fn();
beforeEach(() => {
  checks = [check("b", "2026-07-10T08:00:00Z", [231, 0, 600]), check("a", "2026-01-10T08:00:00Z", [228, 230, 235])];
  sent = server(({ method, path, body }) => {
    if (path.includes("/todos")) return { todos: [] };
    if (path.includes("/due")) return { due: [], done: [] };
    if (method === "POST") checks = [{ ...(body as ValveCheck), by: "Ada Fennimore" }, ...checks];
    return { checks };
  });
});
afterEach(() => vi.unstubAllGlobals());
const open = (speaks: ControllersStatus["speaks"] = "none", role = "manager") =>
  renderOnSite(smallSite(), <ValveCheckPanel status={status(speaks)} order={order} />, { role });
const last = (path: string): unknown => sent.findLast((s) => s.method === "POST" && s.path.endsWith(path))?.body;

describe("valves by wire", () => {
  it("stand each with what its figure means, what changed and what to look at; a bad one becomes something to do", async () => {
    const { user } = open();
    const table = await screen.findByRole("table", { name: "Valves by wire" });
    const rows = within(table).getAllByRole("row").slice(1);
    expect(rows[0]).toHaveTextContent(/231 mA.*good.*228 mA/);
    expect(rows[1]).toHaveTextContent(/0 mA.*open circuit.*230 mA.*changed, was good.*burnt out/);
    expect(rows[2]).toHaveTextContent(/600 mA.*short/);
    expect(screen.getByText(/2 of 3 not good/)).toHaveTextContent("2 changed since last time");
    await user.click(screen.getByRole("button", { name: "Station 2: note it as something to do" }));
    await waitFor(() =>
      expect(last("/todos")).toMatchObject({ subjectId: "s2", words: "Station 2 S2: open circuit, 0 mA by wire" }),
    );
    await user.selectOptions(screen.getByLabelText("Check of"), "a");
    expect(screen.getByText("Every valve that was measured is good.", { exact: false })).toBeVisible();
  });
  it("are typed in, in ohms too; what is left empty was not measured", async () => {
    const { user } = open();
    await user.click(await screen.findByRole("button", { name: "resistance, Ω" }));
    expect(screen.getByText("No check of this controller in ohms yet.")).toBeVisible();
    await user.click(screen.getByRole("button", { name: "Type in" }));
    await user.type(screen.getByLabelText("2 S2, Ω"), "3{Enter}");
    await user.click(screen.getByRole("button", { name: "Keep the check" }));
    await waitFor(() =>
      expect(last("/valve-checks")).toMatchObject({
        unit: "ohm",
        how: "typed",
        readings: [{ stationId: "s2", value: 3 }],
      }),
    );
    const table = await screen.findByRole("table", { name: "Valves by wire" });
    expect(within(table).getByRole("row", { name: /2 S2/ })).toHaveTextContent(/3 Ω.*short/);
    expect(within(table).getByRole("row", { name: /1 S1/ })).toHaveTextContent("not measured");
  });
  it("are pasted, and what cannot be read is told before anything is kept", async () => {
    const { user } = open();
    await user.click(await screen.findByRole("button", { name: "Paste" }));
    await user.type(screen.getByLabelText(/A line for each station/), "1, 230{Enter}9, 230{Enter}3 open");
    expect(screen.getByText(/this controller has no station 9/)).toBeVisible();
    await user.click(screen.getByRole("button", { name: "Keep 2 readings" }));
    await waitFor(() =>
      expect(last("/valve-checks")).toMatchObject({
        how: "pasted",
        readings: [{ value: 230 }, { stationId: "s3", value: 0 }],
      }),
    );
  });
  it("are asked of a controller that answers; whoever changes nothing only looks", async () => {
    const { user, unmount } = open("orders");
    await user.click(await screen.findByRole("button", { name: "Ask the controller" }));
    expect(order).toHaveBeenCalledWith({ kind: "check", controllerId: "ctl" });
    unmount();
    open("orders", "viewer");
    expect(await screen.findByRole("table", { name: "Valves by wire" })).toBeVisible();
    expect(screen.queryByRole("button", { name: /Ask|Type in|Paste|something to do/ })).toBeNull();
  });
});
