import { screen, within } from "@testing-library/react";
import { describe, expect, it } from "vitest";
import { useWorkspace } from "@/components/draft/site-draft";
import type { Station } from "@/core/site-file/schema";
import { renderOnSite } from "@/testing/site-around";
import { smallSite } from "@/testing/small-site";
import { CopySettings } from "./copy-settings";

function First({ marked }: { marked: number }) {
  const { draft } = useWorkspace("draft");
  return <CopySettings from={draft.stations[0] as Station} marked={draft.stations.slice(0, marked)} />;
}
const site = () =>
  smallSite((s) => {
    Object.assign(s.stations[0] ?? {}, { planting: "turf", cycle: { longestMin: 6 }, soakMin: 20 });
    Object.assign(s.stations[2] ?? {}, { planting: "turf" });
  });

describe("settings of a station for others", () => {
  it("go to the marked ones, in the parts that are ticked", async () => {
    const { user, now } = renderOnSite(site(), <First marked={2} />);
    await user.click(screen.getByRole("button", { name: "Copy settings" }));
    const dialog = within(screen.getByRole("dialog"));
    const copy = dialog.getByRole("button", { name: "Copy to 1 station" });
    expect(copy).toBeDisabled();
    await user.click(dialog.getByLabelText("cycles and soak"));
    await user.click(copy);
    expect(now().stations.map((s) => s.soakMin)).toEqual([20, 20, undefined]);
    expect(now().stations[1]).not.toHaveProperty("planting");
    expect(screen.queryByRole("dialog")).toBeNull();
  });
  it("with nothing else marked, to those that have something in common with it", async () => {
    const { user, now } = renderOnSite(site(), <First marked={1} />);
    await user.click(screen.getByRole("button", { name: "Copy settings" }));
    const to = screen.getByLabelText("To the stations");
    expect(
      within(to)
        .getAllByRole("option")
        .map((o) => o.textContent),
    ).toEqual(["on Main: 2", "of Controller: 2", "with turf: 1", "of the site: 2"]);
    await user.selectOptions(to, "with turf: 1");
    await user.click(screen.getByLabelText("cycles and soak"));
    await user.click(screen.getByRole("button", { name: "Copy to 1 station" }));
    expect(now().stations.map((s) => s.soakMin)).toEqual([20, undefined, 20]);
  });
});
