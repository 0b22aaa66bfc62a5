import { render, screen } from "@testing-library/react";
import userEvent from "@testing-library/user-event";
import { afterEach, describe, expect, it, vi } from "vitest";
import { DataProvider } from "@/components/data/data-provider";
import { server } from "@/testing/page-server";
import { Compare } from "./compare";

afterEach(() => vi.unstubAllGlobals());

const revision = (version: number) => ({
  version,
  note: "",
  madeAt: "2026-07-14T10:00:00.000Z",
  madeByName: "Ada",
  changes: [],
});

describe("comparing", () => {
  it("tells the last change first, then any two revisions, then another site, in words", async () => {
    const sent = server(({ path }) => {
      if (path === "/api/sites") return { sites: [{ id: "s2", name: "Dell Pond" }] };
      if (path.includes("with=")) return { from: "Here", to: "Dell Pond", changes: [] };
      return { from: "revision 1", to: "revision 3", changes: [{ path: "a", words: "high limit 20 → 25 %" }] };
    });
    render(
      <DataProvider>
        <Compare siteId="s1" revisions={[3, 2, 1].map(revision)} when={() => "then"} />
      </DataProvider>,
    );
    const user = userEvent.setup();
    expect(await screen.findByText("high limit 20 → 25 %")).toBeInTheDocument();
    expect(sent.some((s) => s.path === "/api/sites/s1/compare?from=2&to=3")).toBe(true);
    await user.selectOptions(screen.getByLabelText("From revision"), "1");
    await vi.waitFor(() => expect(sent.at(-1)?.path).toBe("/api/sites/s1/compare?from=1&to=3"));
    await user.selectOptions(screen.getByLabelText("This site with"), "Dell Pond");
    expect(await screen.findByText("Here and Dell Pond do not differ.")).toBeInTheDocument();
    expect(screen.queryByLabelText("To revision")).toBeNull();
  });
});
