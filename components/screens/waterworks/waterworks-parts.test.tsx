import { act, screen, waitFor, within } from "@testing-library/react";
import { afterEach, beforeEach, describe, expect, it, vi } from "vitest";
import type { Pressures } from "@/components/draft/use-pressures";
import type { PressureStudy } from "@/core/hydraulics/pressures";
import { TYPICAL } from "@/core/library/typical";
import type { Device, SiteFile } from "@/core/site-file/schema";
import { savedFiles } from "@/testing/saved-files";
import { renderOnSite } from "@/testing/site-around";
import { smallSite } from "@/testing/small-site";
import { useWorkspace } from "../../draft/site-draft";
import { ExchangePanel } from "./exchange-panel";
import { LibraryPicker } from "./library-picker";
import { PointsField } from "./points-field";
import { PressurePanel } from "./pressure-panel";
import { SpotCheck } from "./spot-check";
import { WiredEditor } from "./wired-editor";
import { wiredThings } from "@/core/wiring/addresses";

vi.mock("next/navigation", () => import("@/testing/navigation-here"));
beforeEach(() => window.history.replaceState(null, "", "/sites/site/waterworks"));
afterEach(() => {
  vi.unstubAllGlobals();
  vi.restoreAllMocks();
});

const deviceOf = (file: SiteFile, id: string): Device => {
  const found = file.pocs[0]?.devices.find((d) => d.id === id);
  if (!found) throw new Error(`no device ${id}`);
  return found;
};
/** A part for one device, drawn anew with every edit. */
function OnDevice({ id, part: Part }: { id: string; part: React.ComponentType<{ device: Device }> }) {
  const { draft } = useWorkspace("draft");
  return <Part device={deviceOf(draft, id)} />;
}

describe("pressure at every valve", () => {
  const at = (stationId: string, kPa: number, requiredKpa: number | null = 200) => ({
    stationId,
    kPa,
    requiredKpa,
    marginKpa: requiredKpa === null ? null : kPa - requiredKpa,
  });
  const set = (stations: ReturnType<typeof at>[], more: object = {}) => ({
    at: null as number | null,
    stations,
    worst: [...stations].sort((a, b) => (a.marginKpa ?? 1e9) - (b.marginKpa ?? 1e9))[0] ?? null,
    totalLpm: 150,
    pocs: [{ id: "poc", lpm: 150 }],
    unbalanced: false,
    ...more,
  });
  const study = (more: object = {}): Pressures =>
    ({
      state: "done",
      findings: [],
      study: {
        alone: [at("s1", 260), at("s2", 240), at("s3", 280, null)],
        design: set([at("s1", 210), at("s3", 190)]),
        night: [
          { ...set([at("s1", 205), at("s3", 230)]), at: Date.parse("2026-07-14T20:00:00Z") / 1000 },
          { ...set([at("s2", 150)]), at: Date.parse("2026-07-14T20:10:00Z") / 1000 },
        ],
        assumptions: [],
        unknown: [],
        ...more,
      } as unknown as PressureStudy,
    }) as unknown as Pressures;
  const open = (found: Pressures, file = smallSite()) => {
    const onSelect = vi.fn();
    return { ...renderOnSite(file, <PressurePanel found={found} onSelect={onSelect} />), onSelect };
  };
  const line = (): HTMLElement => screen.getByText(/^Worst:/).closest("p") as HTMLElement;
  const rows = (): string[] =>
    screen
      .getAllByRole("row")
      .slice(1)
      .map((r) => within(r).getAllByRole("button")[0]?.textContent ?? "");

  it("begins with each station by itself, the one with least to spare first", async () => {
    const { user, onSelect } = open(study());
    expect(line()).toHaveTextContent("Worst: 2 S2, 240 kPa; it requires 200 kPa, 40 kPa to spare.");
    expect(rows()).toEqual(["2 S2", "1 S1", "3 S3"]);
    await user.click(within(line()).getByRole("button", { name: "2 S2" }));
    expect(onSelect).toHaveBeenCalledWith("s2");
  });
  it("in a set of the night tells what each has alone and now, and which set is the worst", async () => {
    const { user } = open(study());
    const choose = screen.getByRole("combobox", { name: "Running" });
    expect(within(choose).getByRole("option", { name: /22:10.*the worst of the night/ })).toBeInTheDocument();
    await user.selectOptions(choose, within(choose).getByRole("option", { name: /22:10/ }));
    expect(line()).toHaveTextContent("1 of 1 are short.");
    expect(within(line()).getByText(/short$/)).toHaveClass("text-error");
    expect(screen.getByRole("columnheader", { name: /^Alone/ })).toBeInTheDocument();
  });
  it("shows only those that are short on request", async () => {
    const { user } = open(study());
    await user.selectOptions(screen.getByRole("combobox", { name: "Running" }), "design");
    expect(rows()).toEqual(["3 S3", "1 S1"]);
    await user.click(screen.getByRole("checkbox", { name: "only those that are short" }));
    expect(rows()).toEqual(["3 S3"]);
  });
  it("names what was assumed for want of better, and what cannot be told", () => {
    open(
      study({
        assumptions: [
          { code: "noPipes", subjectId: "main" },
          { code: "evenlySpread", subjectId: "main" },
          { code: "noStaticPressure", subjectId: "src" },
        ],
        unknown: ["s3"],
      }),
    );
    const words = screen.getAllByRole("listitem").map((li) => li.textContent);
    expect(words).toEqual([
      "Main: no pipe is entered, so none is lost there.",
      "Main: stations are spread evenly along the main, for want of their places.",
      "Source: no static pressure is stated.",
      expect.stringMatching(/^For 1 station no pressure can be told/),
    ]);
  });
  it("of a set that the supply cannot deliver says that it means nothing", async () => {
    const { user } = open(study({ design: set([at("s1", 90)], { unbalanced: true }) }));
    await user.selectOptions(screen.getByRole("combobox", { name: "Running" }), "design");
    expect(screen.getByText(/The supply cannot deliver this set/)).toBeInTheDocument();
  });
  it("still at work, failed, and without stations each has its words", () => {
    const { unmount } = open({ state: "working" } as Pressures);
    expect(screen.getByText("Solving the network…")).toBeInTheDocument();
    unmount();
    const failed = open({ state: "failed", message: "a pipe has no length" } as Pressures);
    expect(screen.getByRole("alert")).toHaveTextContent("The network could not be solved: a pipe has no length");
    failed.unmount();
    open(
      study(),
      smallSite((s) => {
        s.stations = [];
        s.programs = [];
      }),
    );
    expect(screen.getByText(/No station yet\. Pressure is judged at station valves/)).toBeInTheDocument();
  });
});

describe("a data sheet from the library", () => {
  const library = (kept: object[], keep: () => Response = () => json({ items: kept })) => {
    const sent: unknown[] = [];
    vi.stubGlobal("fetch", async (_: string, init?: RequestInit) => {
      if (!init?.body) return json({ items: kept });
      sent.push(JSON.parse(String(init.body)));
      return keep();
    });
    return sent;
  };
  const json = (body: unknown, status = 200): Response =>
    new Response(JSON.stringify(body), { status, headers: { "content-type": "application/json" } });

  it("generic or one's own, is taken with its note", async () => {
    library([
      {
        id: "k1",
        name: "Gate meter",
        note: "from the 2025 sheet",
        keptBy: "Ada Fennimore",
        keptAt: "2026-01-01T00:00:00Z",
        body: { kind: "flowSensor", output: { type: "pulse", litresPerPulse: 10 }, minLpm: 20, maxLpm: 400 },
      },
    ]);
    const { user, now } = renderOnSite(smallSite(), <OnDevice id="fs" part={LibraryPicker} />);
    const choose = screen.getByRole("combobox", { name: "Take its data sheet from the library" });
    expect(await within(choose).findByRole("option", { name: "Gate meter" })).toBeInTheDocument();
    const generic = TYPICAL.filter((t) => t.body.kind === "flowSensor").length;
    expect(within(choose).getAllByRole("option")).toHaveLength(2 + generic);
    await user.selectOptions(choose, "Gate meter");
    expect(screen.getByRole("status")).toHaveTextContent("Taken from Gate meter: from the 2025 sheet.");
    expect(deviceOf(now(), "fs")).toMatchObject({ id: "fs", minLpm: 20, maxLpm: 400, output: { litresPerPulse: 10 } });
  });
  it("is kept for every site; what the server refuses is told", async () => {
    const sent = library([]);
    const { user, unmount } = renderOnSite(smallSite(), <OnDevice id="mv" part={LibraryPicker} />);
    await user.click(screen.getByRole("button", { name: "Keep in library" }));
    expect(await screen.findByText('Kept as "Master valve"; it can be taken on every site.')).toBeInTheDocument();
    expect(sent[0]).toMatchObject({ name: "Master valve", body: { kind: "masterValve" } });
    unmount();
    library([], () => json({ error: { code: "bad", message: "A name of that kind is kept already." } }, 400));
    const again = renderOnSite(smallSite(), <OnDevice id="mv" part={LibraryPicker} />);
    await again.user.click(screen.getByRole("button", { name: "Keep in library" }));
    expect(await screen.findByText("A name of that kind is kept already.")).toHaveClass("text-error");
  });
  it("is taken by nobody who only looks", async () => {
    library([]);
    renderOnSite(smallSite(), <OnDevice id="fs" part={LibraryPicker} />, { role: "viewer" });
    expect(screen.getByRole("combobox")).toBeDisabled();
    expect(screen.queryByRole("button", { name: "Keep in library" })).toBeNull();
  });
});

describe("points of a curve", () => {
  const points = (more: Partial<React.ComponentProps<typeof PointsField>> = {}, file = smallSite()) => {
    const onCommit = vi.fn();
    const value: [number, number][] = [
      [0, 50],
      [200, 30],
    ];
    return {
      ...renderOnSite(
        file,
        <PointsField label="Curve" quantity="length" of="of head" value={value} rising onCommit={onCommit} {...more} />,
      ),
      onCommit,
      box: screen.getByRole("textbox"),
    };
  };
  it("are a line each, in any of the usual separators; what was not touched keeps its figures", async () => {
    const { user, box, onCommit } = points();
    await user.clear(box);
    await user.type(box, "0 50\n120; 44\n200,30");
    await user.tab();
    expect(onCommit).toHaveBeenLastCalledWith([
      [0, 50],
      [120, 44],
      [200, 30],
    ]);
  });
  it("that fall, or are no figures, are told by line and not taken", async () => {
    const { user, box, onCommit } = points();
    await user.clear(box);
    await user.type(box, "0 50\n300 40\n200 30");
    await user.tab();
    expect(screen.getByRole("alert")).toHaveTextContent("The flows must rise from line to line.");
    await user.clear(box);
    await user.type(box, "0 50\nmuch");
    await user.tab();
    expect(screen.getByRole("alert")).toHaveTextContent(
      /^Line 2: write a flow in L\/min and m of head, like "120 58"\.$/,
    );
    expect(onCommit).not.toHaveBeenCalled();
  });
  it("must be there where they are needed", async () => {
    const { user, box, onCommit } = points({ required: true });
    await user.clear(box);
    await user.tab();
    expect(screen.getByRole("alert")).toHaveTextContent(/^Line 1/);
    expect(onCommit).not.toHaveBeenCalled();
  });
});

describe("found on the spot", () => {
  it("is noted with words, who and when; the last word stands", async () => {
    const { user, now } = renderOnSite(smallSite(), <OnDevice id="mv" part={SpotCheck} />);
    const part = screen.getByRole("region", { name: "On the spot" });
    expect(part).toHaveTextContent("not looked at yet");
    await user.type(within(part).getByRole("textbox", { name: "Note" }), "it is normally open");
    await user.click(within(part).getByRole("button", { name: "Not so" }));
    expect(part).toHaveTextContent(/not as drawn, Ada Fennimore, .*: it is normally open/);
    await user.click(within(part).getByRole("button", { name: "As drawn" }));
    expect(part).toHaveTextContent(/as drawn, Ada Fennimore/);
    expect(part).not.toHaveTextContent("not as drawn");
    expect(deviceOf(now(), "mv").checks).toHaveLength(2);
  });
});

describe("a network file", () => {
  it("goes out under the site's name, and comes in unless it is far too large", async () => {
    const files = savedFiles();
    const { user, now } = renderOnSite(smallSite(), <ExchangePanel onDone={() => {}} />);
    await user.click(screen.getByRole("button", { name: "Save small.inp" }));
    await waitFor(() => expect(files).toHaveLength(1));
    expect(await files[0]?.text).toMatch(/\[JUNCTIONS\]/);
    const large = new File(["x"], "town.inp", { type: "text/plain" });
    Object.defineProperty(large, "size", { value: 9 * 1024 * 1024 });
    await user.upload(screen.getByLabelText("EPANET input file"), large);
    expect(await screen.findByRole("alert")).toHaveTextContent(/town\.inp is larger than 8 MB.*Nothing was changed/);
    expect(now()).toEqual(smallSite());
  });
});

function Editor({ id, onRefused }: { id: string; onRefused: (r: unknown) => void }) {
  const { draft } = useWorkspace("draft");
  const thing = wiredThings(draft).find((t) => t.id === id);
  return thing ? <WiredEditor thing={thing} onRefused={onRefused} /> : null;
}

describe("where a device hangs", () => {
  const edit = (id: string, change: (s: SiteFile) => void = () => {}) => {
    const onRefused = vi.fn();
    return { ...renderOnSite(smallSite(change), <Editor id={id} onRefused={onRefused} />), onRefused };
  };
  it("a master valve is put on a controller, with its coil", async () => {
    const { user, now } = edit("mv");
    await user.selectOptions(screen.getByRole("combobox", { name: "Controller" }), "Controller");
    await user.selectOptions(screen.getByRole("combobox", { name: "Coil" }), "latching DC");
    expect(deviceOf(now(), "mv")).toMatchObject({ controllerId: "ctl", coil: "dcLatching" });
    await user.selectOptions(screen.getByRole("combobox", { name: "Controller" }), "none");
    expect(deviceOf(now(), "mv")).not.toHaveProperty("controllerId");
  });
  it("a decoder taken off goes back into the tray in one step of undo", async () => {
    const { user, now, draft } = edit("s1", (s) => {
      Object.assign(s.stations[0] as object, { serial: "K100" });
    });
    await user.click(screen.getByRole("button", { name: "Take K100 off, back into the tray" }));
    expect(now().stations[0]).not.toHaveProperty("serial");
    expect(now().tray?.map((t) => t.serial)).toEqual(["K100"]);
    act(() => draft.undo());
    expect(now().stations[0]?.serial).toBe("K100");
    expect(now().tray).toBeUndefined();
  });
  it("a serial number that is in use elsewhere is refused with where", async () => {
    const { user, now, onRefused } = edit("s2", (s) => {
      Object.assign(s.stations[0] as object, { serial: "K100" });
    });
    await user.type(screen.getByRole("textbox", { name: "Serial number" }), "k-100{Enter}");
    expect(onRefused.mock.lastCall?.[0]).toMatchObject({ words: expect.stringMatching(/1 S1/) });
    expect(now().stations[1]).not.toHaveProperty("serial");
  });
  it("readings stand in their order, each with what it means for this coil", () => {
    edit("s1", (s) => {
      Object.assign(s.stations[0] as object, { coil: "ac24" });
      s.wireReadings = [
        {
          id: "r1",
          subjectId: "s1",
          ohm: 28,
          where: "coil",
          at: "2026-03-02T09:00:00Z",
          by: "Odd Brennmoen",
          note: "dry box",
        },
        {
          id: "r2",
          subjectId: "s1",
          ohm: 900000,
          where: "controller",
          at: "2026-07-01T09:00:00Z",
          by: "Ada Fennimore",
        },
      ] as never;
    });
    const [first, second] = screen.getAllByRole("row") as [HTMLElement, HTMLElement];
    expect(first).toHaveTextContent(/2 Mar 2026Odd Brennmoenat the coil28 Ωgooddry box/);
    expect(second).toHaveTextContent(/at the controller900000 Ωopen circuit/);
  });
});
