import { act, createEvent, fireEvent, screen, waitFor } from "@testing-library/react";
import { useState } from "react";
import { beforeEach, describe, expect, it, vi } from "vitest";
import type { SiteFile } from "@/core/site-file/schema";
import { savedFiles } from "@/testing/saved-files";
import { renderOnSite } from "@/testing/site-around";
import { smallSite } from "@/testing/small-site";
import { bounds } from "./drawing";
import { FlowDrawing } from "./flow-drawing";
import { PIECE_TYPE } from "./run-node";
import { COMPACT, FULL, rows, shapes } from "./shapes";

// How elements are arranged is the arranging package's; here they stand in their rows.
vi.mock("./arrange", () => ({ arrange: () => Promise.reject(new Error("not here")) }));

function OnDrawing({ first }: { first: string | null }) {
  const [selected, setSelected] = useState(first);
  return (
    <>
      <FlowDrawing selected={selected} onSelect={setSelected} />
      <output aria-label="Selected">{selected ?? "nothing"}</output>
    </>
  );
}
const draw = async (file = smallSite(), { role = "manager", first = null as string | null } = {}) => {
  const view = renderOnSite(file, <OnDrawing first={first} />, { role });
  await screen.findByRole("button", { name: /^Main, ceiling/, hidden: true });
  return view;
};
const part = (name: RegExp | string): HTMLElement => screen.getByRole("button", { name, hidden: true });
const selected = (): string | null => screen.getByLabelText("Selected").textContent;
const pieces = (file: SiteFile): string[] => file.pocs[0]?.devices.map((d) => d.id) ?? [];
beforeEach(() => {
  // A drawing needs a place to be drawn in.
  vi.spyOn(HTMLElement.prototype, "offsetWidth", "get").mockReturnValue(900);
  vi.spyOn(HTMLElement.prototype, "offsetHeight", "get").mockReturnValue(500);
});

describe("the drawing to work on", () => {
  it("tells of every element and piece what limits it, and takes one stop of the keyboard", async () => {
    await draw();
    expect(part(/^Source Source, ceiling no limit/)).toBeInTheDocument();
    expect(part(/^Poc, ceiling/)).toBeInTheDocument();
    expect(part(/^Main, ceiling 150 L\/min/)).toBeInTheDocument();
    expect(part(/^master valve/i)).toBeInTheDocument();
    const stops = [...document.querySelectorAll<HTMLElement>("[data-pick]")].filter(
      (e) => e.getAttribute("tabindex") === "0",
    );
    expect(stops).toHaveLength(1);
  });
  it("chooses by press, Enter and Space; the chosen one is where the keyboard comes in", async () => {
    await draw();
    fireEvent.click(part(/^Poc, ceiling/));
    expect(selected()).toBe("poc");
    fireEvent.keyDown(part(/^master valve/i), { key: "Enter" });
    expect(selected()).toBe("mv");
    expect(part(/^master valve/i)).toHaveAttribute("aria-pressed", "true");
    expect(part(/^master valve/i)).toHaveAttribute("tabindex", "0");
    fireEvent.keyDown(part(/^Main, ceiling/), { key: " " });
    expect(selected()).toBe("main");
  });
  it("opens a main's stations and folds them, one main or all", async () => {
    const { user } = await draw();
    const chip = part("3 stations");
    expect(chip).toHaveAttribute("aria-expanded", "false");
    fireEvent.click(chip);
    expect(await screen.findByRole("button", { name: "Station 2 S2", hidden: true })).toBeInTheDocument();
    await user.click(screen.getByRole("button", { name: "Fold stations" }));
    await waitFor(() => expect(screen.queryByRole("button", { name: "Station 2 S2", hidden: true })).toBeNull());
    await user.click(screen.getByRole("button", { name: "Open stations" }));
    fireEvent.click(await screen.findByRole("button", { name: "Station 3 S3", hidden: true }));
    expect(selected()).toBe("s3");
  });
  it("a piece is added to the chosen pipe at its end, and chosen", async () => {
    const { user, now } = await draw(smallSite(), { first: "poc" });
    expect(screen.getByText("Add to Poc, or drag onto any pipe:")).toBeInTheDocument();
    await user.click(screen.getByRole("button", { name: "Place Water meter" }));
    expect(pieces(now())).toEqual(["mv", "fs", selected()]);
    expect(now().pocs[0]?.devices.at(-1)?.kind).toBe("meter");
  });
  it("nothing is added where nothing is chosen, or where only a source is", async () => {
    const { user, now } = await draw(smallSite(), { first: "src" });
    expect(screen.getByText("Drag a piece onto a pipe, or choose a pipe first:")).toBeInTheDocument();
    await user.click(screen.getByRole("button", { name: "Place Water meter" }));
    expect(await screen.findByText(/Choose a connection or a main first/)).toBeInTheDocument();
    expect(now()).toEqual(smallSite());
  });
  it("a piece dropped on a pipe stands where it was dropped", async () => {
    const { now } = await draw();
    const pipe = screen.getByRole("group", { name: "Poc", hidden: true });
    vi.spyOn(pipe, "getBoundingClientRect").mockReturnValue({ left: 0, top: 0, width: 300, height: 150 } as DOMRect);
    const data = { getData: (type: string) => (type === PIECE_TYPE ? "backflow" : ""), types: [PIECE_TYPE] };
    const drop = createEvent.drop(pipe);
    // Between the first piece, in the middle of its 60, and the second.
    Object.assign(drop, { dataTransfer: data });
    Object.defineProperty(drop, "clientX", { value: 60 });
    fireEvent(pipe, drop);
    await waitFor(() => expect(pieces(now())).toHaveLength(3));
    expect(now().pocs[0]?.devices[1]?.kind).toBe("backflow");
  });
  it("what is dropped on a source stays outside", async () => {
    const { now } = await draw();
    const source = screen.getByRole("group", { name: "Source", hidden: true });
    const drop = createEvent.drop(source);
    Object.assign(drop, { dataTransfer: { getData: () => "meter", types: [PIECE_TYPE] } });
    fireEvent(source, drop);
    expect(now()).toEqual(smallSite());
  });
  it("Shift and the arrows move a piece along the flow, and an element on the drawing", async () => {
    const { now, draft } = await draw();
    fireEvent.keyDown(part(/^flow sensor/i), { key: "ArrowLeft", shiftKey: true });
    expect(pieces(now())).toEqual(["fs", "mv"]);
    fireEvent.keyDown(part(/^Main, ceiling/), { key: "ArrowDown", shiftKey: true });
    const first = now().positions?.find((p) => p.id === "main");
    fireEvent.keyDown(part(/^Main, ceiling/), { key: "ArrowDown", shiftKey: true, ctrlKey: true });
    const then = now().positions?.find((p) => p.id === "main");
    expect((then?.y ?? 0) - (first?.y ?? 0)).toBe(40);
    act(() => draft.undo());
    expect(now().positions?.find((p) => p.id === "main")).toEqual(first);
  });
  it("what was moved by hand is arranged again on request", async () => {
    const { user, now } = await draw(
      smallSite((s) => {
        s.positions = [{ id: "main", x: 700, y: 30 }];
      }),
    );
    await user.click(screen.getByRole("button", { name: "Arrange" }));
    expect(now()).not.toHaveProperty("positions");
    expect(screen.queryByRole("button", { name: "Arrange" })).toBeNull();
  });
  it("is undone and done again from its own tools", async () => {
    const { user, now } = await draw(smallSite(), { first: "poc" });
    const undo = screen.getByRole("button", { name: "Undo, Ctrl+Z" });
    expect(undo).toBeDisabled();
    await user.click(screen.getByRole("button", { name: "Place Water meter" }));
    await user.click(undo);
    expect(pieces(now())).toEqual(["mv", "fs"]);
    await user.click(screen.getByRole("button", { name: "Redo, Ctrl+Y" }));
    expect(pieces(now())).toHaveLength(3);
  });
  it("is saved as a picture under the site's name", async () => {
    const files = savedFiles();
    const { user } = await draw();
    await user.click(screen.getByRole("button", { name: /^SVG|Picture \(SVG\)/ }));
    await waitFor(() => expect(files).toHaveLength(1));
    expect(files[0]?.name).toBe("small-waterworks.svg");
    expect(await files[0]?.text).toContain("150 L/min");
  });
  it("is looked at, not changed, by who only looks", async () => {
    const { now } = await draw(smallSite(), { role: "viewer" });
    expect(screen.queryByRole("group", { name: "Pieces to place" })).toBeNull();
    expect(screen.queryByRole("button", { name: /^Undo/ })).toBeNull();
    fireEvent.keyDown(part(/^flow sensor/i), { key: "ArrowLeft", shiftKey: true });
    fireEvent.keyDown(part(/^Main, ceiling/), { key: "ArrowDown", shiftKey: true });
    expect(now()).toEqual(smallSite());
    fireEvent.click(part(/^Poc, ceiling/));
    expect(selected()).toBe("poc");
  });
});

describe("shapes of the waterworks", () => {
  const many = (mains: number): SiteFile =>
    smallSite((s) => {
      for (let n = 2; n <= mains; n++)
        s.mainlines.push({ id: `m${n}`, name: `Main ${n}`, feedIds: ["poc"], pipes: [], ceilingLpm: 150 / n });
    });
  it("are as thick as their ceilings, the largest thickest", () => {
    const { list } = shapes(many(3));
    const half = (id: string): number => list.find((s) => s.id === id)?.half ?? 0;
    expect(half("main")).toBeGreaterThan(half("m2"));
    expect(half("m2")).toBeGreaterThan(half("m3"));
    expect(half("m3")).toBeGreaterThanOrEqual(3);
  });
  it("of many elements are drawn small, or as one asks", () => {
    expect(shapes(many(3)).compact).toBe(false);
    expect(shapes(many(8)).compact).toBe(true);
    expect(shapes(many(8), { compact: false }).list[1]?.height).toBe(FULL.above + FULL.below);
    expect(shapes(many(8)).list[1]?.height).toBe(COMPACT.above + COMPACT.below);
  });
  it("a joint is as thick as the thinner of what it joins, and none leads to what is not there", () => {
    const { joints, list } = shapes(
      smallSite((s) => {
        s.mainlines.push({ id: "far", name: "Far", feedIds: ["main"], pipes: [], ceilingLpm: 20 });
      }),
    );
    expect(joints.map((j) => `${j.from}>${j.to}`)).toEqual(["src>poc", "poc>main", "main>far"]);
    expect(joints[2]?.half).toBe(list.find((s) => s.id === "far")?.half);
  });
  it("mark the piece that binds, and grow where stations are opened", () => {
    const metered = smallSite();
    const closed = shapes(metered);
    const poc = closed.list.find((s) => s.id === "poc");
    expect(poc?.pieces.filter((p) => p.binds).map((p) => p.id)).toEqual(["fs"]);
    const open = shapes(metered, { open: new Set(["main"]) });
    const height = (drawn: typeof open): number => drawn.list.find((s) => s.id === "main")?.height ?? 0;
    expect(height(open)).toBe(height(closed) + 3 * 17 + 10);
  });
  it("in rows stand source, connection, main from left to right, none on another", () => {
    const site = many(4);
    const drawn = shapes(site);
    const places = rows(site, drawn);
    const at = (id: string): { x: number; y: number } => places.get(id) ?? { x: Number.NaN, y: Number.NaN };
    expect(at("src").x).toBeLessThan(at("poc").x);
    expect(at("poc").x).toBeLessThan(at("main").x);
    const boxes = drawn.list.map((s) => ({ id: s.id, ...at(s.id), w: s.width, h: s.height }));
    for (const a of boxes)
      for (const b of boxes)
        if (a.id !== b.id)
          expect(
            a.x + a.w <= b.x || b.x + b.w <= a.x || a.y + a.h <= b.y || b.y + b.h <= a.y,
            `${a.id} on ${b.id}`,
          ).toBe(true);
    const { x0, y0, width, height } = bounds(drawn, places);
    for (const b of boxes) {
      expect(b.x).toBeGreaterThanOrEqual(x0);
      expect(b.y).toBeGreaterThanOrEqual(y0);
      expect(b.x + b.w).toBeLessThanOrEqual(x0 + width);
      expect(b.y + b.h).toBeLessThanOrEqual(y0 + height);
    }
  });
});
