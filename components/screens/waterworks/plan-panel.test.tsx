import { fireEvent, screen, waitFor, within } from "@testing-library/react";
import { useState } from "react";
import { afterEach, beforeEach, describe, expect, it, vi } from "vitest";
import type { SiteFile } from "@/core/site-file/schema";
import { renderOnSite } from "@/testing/site-around";
import { smallSite } from "@/testing/small-site";
import { PlanPanel } from "./plan-panel";

vi.mock("next/navigation", () => import("@/testing/navigation-here"));
vi.mock("@/components/kit/smaller-picture", () => ({ smallerPicture: async () => new Blob(["small"]) }));
const opened = vi.hoisted(() => ({ pages: [] as number[], closed: 0 }));
vi.mock("@/components/pictures/plan/pdf-pages", () => ({
  PLAN_PX: 3200,
  openPdf: async () => ({
    count: 3,
    picture: async (page: number) => {
      opened.pages.push(page);
      return new Blob(["page"]);
    },
    close: () => opened.closed++,
  }),
}));

const ID = "7b0e3a52-1111-4222-8333-944455556666";
beforeEach(() => {
  vi.spyOn(HTMLElement.prototype, "offsetWidth", "get").mockReturnValue(900);
  vi.spyOn(HTMLElement.prototype, "offsetHeight", "get").mockReturnValue(500);
  vi.stubGlobal("fetch", async () => Response.json({ id: ID, type: "image/jpeg", size: 5 }));
  // A picture is there as soon as it is asked for, twice as wide as high.
  vi.stubGlobal(
    "Image",
    class {
      naturalWidth = 800;
      naturalHeight = 400;
      onload = (): void => {};
      onerror = (): void => {};
      set src(path: string) {
        queueMicrotask(() => (path.includes("missing") ? this.onerror() : this.onload()));
      }
    },
  );
});
afterEach(() => vi.unstubAllGlobals());

function Held({ onOpen }: { onOpen: (id: string) => void }) {
  const [selected, setSelected] = useState<string | null>(null);
  return <PlanPanel selected={selected} onSelect={setSelected} onOpen={onOpen} />;
}
const show = (file: SiteFile, onOpen = vi.fn<(id: string) => void>(), role = "manager") => ({
  ...renderOnSite(file, <Held onOpen={onOpen} />, { role }),
  onOpen,
});
const withPlan = (id = "north") =>
  smallSite((s) => {
    s.plans = [{ id, name: "North", pins: [{ id: "main", x: 0.25, y: 0.5 }] }];
  });
const pieces = () => within(screen.getByRole("list", { name: "Pieces" }));

describe("a plan of the site", () => {
  it("is a picture that is chosen, or one page of a PDF", async () => {
    const { user, now } = show(smallSite());
    const chooser = () => screen.getByLabelText("A plan of the site");
    await user.upload(chooser(), new File(["x"], "shed wall.png", { type: "image/png" }));
    await waitFor(() => expect(now().plans).toEqual([{ id: ID, name: "shed wall", pins: [] }]));
    await user.upload(chooser(), new File(["x"], "sheets.pdf", { type: "application/pdf" }));
    const page = await screen.findByRole("textbox", { name: "Page" });
    await user.clear(page);
    await user.type(page, "2{Tab}");
    await user.click(screen.getByRole("button", { name: "Take this page" }));
    await waitFor(() => expect(now().plans?.[1]?.name).toBe("sheets, page 2"));
    expect(opened).toEqual({ pages: [2], closed: 1 });
  });
  it("takes a pin where it is pressed while a piece without one is chosen; without a mouse, in the middle", async () => {
    const { user, now } = show(withPlan());
    await screen.findByRole("group", { name: "Plan North" });
    await user.click(pieces().getByRole("button", { name: /^1 S1/ }));
    fireEvent.click(await screen.findByAltText("Plan North"), { clientX: 300, clientY: 200 });
    await waitFor(() => expect(now().plans?.[0]?.pins.map((p) => p.id)).toEqual(["main", "s1"]));
    const pin = now().plans?.[0]?.pins[1];
    expect([pin?.x, pin?.y].every((part) => part !== undefined && part >= 0 && part <= 1)).toBe(true);
    await user.click(screen.getByRole("button", { name: "Take its pin off" }));
    await user.click(screen.getByRole("button", { name: "Pin in the middle" }));
    expect(now().plans?.[0]?.pins[1]).toEqual({ id: "s1", x: 0.5, y: 0.5 });
    expect(screen.getByRole("link", { name: "Open it" })).toHaveAttribute("href", "/sites/site/stations?at=s1");
  });
  it("leads from a pin to its piece; the plan is renamed and taken off", async () => {
    const { user, now, onOpen } = show(withPlan());
    fireEvent.click(await screen.findByLabelText("Mainline Main"));
    await user.click(screen.getByRole("button", { name: "Open it" }));
    expect(onOpen).toHaveBeenCalledWith("main");
    const name = screen.getByLabelText("Name of the plan");
    await user.clear(name);
    await user.type(name, "North yard{Enter}");
    expect(now().plans?.[0]?.name).toBe("North yard");
    await user.click(screen.getByRole("button", { name: "Take this plan off" }));
    expect(now()).not.toHaveProperty("plans");
  });
  it("whose picture is not kept here says so; a viewer changes nothing", async () => {
    show(withPlan("missing"), vi.fn<(id: string) => void>(), "viewer");
    expect(await screen.findByText(/its picture is not kept here/)).toBeInTheDocument();
    expect(screen.queryByLabelText("A plan of the site")).toBeNull();
    expect(screen.queryByLabelText("Name of the plan")).toBeNull();
  });
});
