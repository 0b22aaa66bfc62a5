import { screen, within } from "@testing-library/react";
import { useState } from "react";
import { describe, expect, it } from "vitest";
import type { SiteFile } from "@/core/site-file/schema";
import { renderOnSite, type SiteAround } from "@/testing/site-around";
import { smallSite } from "@/testing/small-site";
import { Ledger } from "./ledger";

function Opened({ first }: { first: string }) {
  const [selected, setSelected] = useState<string | null>(first);
  return <Ledger selected={selected} onSelect={setSelected} pressures={{ state: "working" }} />;
}
const opened = (id: string, change: (site: SiteFile) => void = () => {}): SiteAround =>
  renderOnSite(smallSite(change), <Opened first={id} />);
const kinds = (site: SiteFile): string[] => site.pocs[0]?.devices.map((d) => d.kind) ?? [];

describe("the ledger of the waterworks", () => {
  it("lays a standard connection in one press and one step of undo, in flow order", async () => {
    const { user, now, draft } = opened("poc", (s) => {
      (s.pocs[0] as { devices: unknown[] }).devices = [];
    });
    await user.click(screen.getByRole("button", { name: "Standard connection" }));
    expect(kinds(now())).toEqual(["meter", "backflow", "masterValve", "flowSensor"]);
    expect(screen.queryByRole("button", { name: "Standard connection" })).toBeNull();
    draft.undo();
    expect(kinds(now())).toEqual([]);
  });

  it("shows what binds, adds a piece and opens it, moves it up the flow and takes it out", async () => {
    const { user, now } = opened("main");
    expect(screen.getByText(/binds:/)).toBeInTheDocument();
    await user.click(screen.getByRole("button", { name: /^Poc/ }));
    const pieces = within(screen.getByRole("group", { name: "Add a piece" }));
    await user.click(pieces.getByRole("button", { name: "Water meter" }));
    expect(kinds(now())).toEqual(["masterValve", "flowSensor", "meter"]);
    await user.click(screen.getByRole("button", { name: "Move Water meter up the flow" }));
    expect(kinds(now())).toEqual(["masterValve", "meter", "flowSensor"]);
    await user.click(screen.getByRole("button", { name: "Delete Water meter" }));
    expect(kinds(now())).toEqual(["masterValve", "flowSensor"]);
  });

  it("notes that a device was found as drawn, by whom, or what was otherwise", async () => {
    const { user, now } = opened("mv");
    const spot = within(screen.getByRole("region", { name: "On the spot" }));
    expect(spot.getByText(/not looked at yet/)).toBeInTheDocument();
    await user.type(spot.getByRole("textbox", { name: "Note" }), "solenoid missing");
    await user.click(spot.getByRole("button", { name: "Not so" }));
    expect(spot.getByText(/solenoid missing/)).toHaveTextContent("not as drawn, Ada Fennimore");
    await user.click(spot.getByRole("button", { name: "As drawn" }));
    expect(now().pocs[0]?.devices[0]?.checks).toMatchObject([
      { check: "onTheSpot", ok: false, note: "solenoid missing", by: "Ada Fennimore" },
      { check: "onTheSpot", ok: true, by: "Ada Fennimore" },
    ]);
    expect(spot.getByText(/as drawn/, { selector: "p" })).not.toHaveTextContent("solenoid missing");
  });

  it("does not delete what others hang on, and says what first", () => {
    opened("main");
    expect(screen.getByRole("button", { name: "Delete" })).toBeDisabled();
    expect(screen.getByText(/^First move or delete/)).toBeInTheDocument();
  });

  it("offers nothing to change to who only looks", () => {
    renderOnSite(smallSite(), <Opened first="poc" />, { role: "viewer" });
    expect(screen.queryByRole("group", { name: "Add a piece" })).toBeNull();
    expect(screen.queryByRole("button", { name: "Delete" })).toBeNull();
  });
});
