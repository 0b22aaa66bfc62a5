import { screen } from "@testing-library/react";
import { describe, expect, it, vi } from "vitest";
import type { SiteFile } from "@/core/site-file/schema";
import { renderOnSite } from "@/testing/site-around";
import { smallSite } from "@/testing/small-site";
import { NextLine } from "./next-line";

vi.mock("next/navigation", () => import("@/testing/navigation-here"));

const on = (name: string, change: (site: SiteFile) => void = () => {}) => {
  window.history.replaceState(null, "", `/sites/site/${name}`);
  return renderOnSite(smallSite(change), <NextLine />);
};

describe("what to do next", () => {
  it("elsewhere is a link to just that place", () => {
    on("programs");
    expect(screen.getByRole("link", { name: /rehearse a night without faults/ })).toHaveAttribute(
      "href",
      "/sites/site/bench",
    );
  });
  it("on the screen itself is words", () => {
    on("learn");
    expect(screen.getByText(/learn 3 stations/)).toHaveTextContent("Next: learn 3 stations");
    expect(screen.queryByRole("link")).toBeNull();
  });
  it("goes when the work is done, and is not on a page that is no step of it", () => {
    const { container, unmount } = on("learn", (s) => {
      for (const x of s.stations)
        x.learned = { meanLpm: x.designFlowLpm ?? 0, sdLpm: 0.5, at: new Date().toISOString() };
    });
    expect(container).not.toHaveTextContent("Next:");
    unmount();
    expect(on("findings").container).not.toHaveTextContent("Next:");
  });
  it("follows what is changed", async () => {
    const { draft } = on("learn");
    draft.edit((f) => ({ ...f, stations: f.stations.map((s, i) => (i === 0 ? { ...s, monitored: false } : s)) }));
    expect(await screen.findByText(/learn 2 stations/)).toBeInTheDocument();
  });
});
