import { screen, waitFor, within } from "@testing-library/react";
import { afterEach, describe, expect, it, vi } from "vitest";
import type { SiteFile } from "@/core/site-file/schema";
import { renderOnSite } from "@/testing/site-around";
import { smallSite } from "@/testing/small-site";
import { SaveStrip } from "./save-strip";

const renamed =
  (i: number, name: string) =>
  (f: SiteFile): SiteFile => ({ ...f, stations: f.stations.map((s, n) => (n === i ? { ...s, name } : s)) });
const answer = (status: number, body: unknown): Response =>
  new Response(JSON.stringify(body), { status, headers: { "content-type": "application/json" } });
/** What the server answers to each request in turn; what it was asked. */
function server(...answers: Response[]): { asked: { path: string; body: Record<string, unknown> }[] } {
  const asked: { path: string; body: Record<string, unknown> }[] = [];
  vi.stubGlobal("fetch", async (path: string, init?: RequestInit) => {
    asked.push({ path, body: JSON.parse(String(init?.body)) as Record<string, unknown> });
    const next = answers.shift();
    if (!next) throw new TypeError("unreachable");
    return next;
  });
  return { asked };
}
afterEach(() => vi.unstubAllGlobals());

describe("the save strip", () => {
  it("is not there without changes, tells them in words, saves with a note, and is gone again", async () => {
    const { user, draft, now } = renderOnSite(smallSite(), <SaveStrip />);
    expect(screen.queryByRole("region", { name: "Unsaved changes" })).toBeNull();
    draft.edit(renamed(0, "Gate"));
    draft.edit(renamed(1, "Bank"));
    const strip = await screen.findByRole("region", { name: "Unsaved changes" });
    expect(strip).toHaveTextContent("2 changes");
    await user.click(within(strip).getByRole("button", { name: "Show all 2" }));
    expect(within(strip).getAllByRole("listitem")).toHaveLength(2);
    const { asked } = server(answer(200, { version: 4, file: now() }));
    await user.type(within(strip).getByLabelText("Note for the log"), "names{Enter}");
    await waitFor(() => expect(screen.queryByRole("region", { name: "Unsaved changes" })).toBeNull());
    expect(asked[0]?.path).toBe("/api/sites/site/revisions");
    expect(asked[0]?.body).toMatchObject({ baseVersion: 3, note: "names" });
    expect(draft.store.getState().version).toBe(4);
  });

  it("keeps what is changed while a save is on its way", async () => {
    const { user, draft, now } = renderOnSite(smallSite(), <SaveStrip />);
    draft.edit(renamed(0, "Gate"));
    let arrive: (response: Response) => void = () => {};
    vi.stubGlobal("fetch", () => new Promise<Response>((yes) => (arrive = yes)));
    await user.click(await screen.findByRole("button", { name: "Save" }));
    const sent = now();
    draft.edit(renamed(1, "Bank"));
    arrive(answer(200, { version: 4, file: sent }));
    await waitFor(() => expect(draft.store.getState().version).toBe(4));
    expect(now().stations.map((s) => s.name)).toEqual(["Gate", "Bank", "S3"]);
    expect(screen.getByRole("region", { name: "Unsaved changes" })).toHaveTextContent("1 change");
    draft.discard();
    expect(now().stations.map((s) => s.name)).toEqual(["Gate", "S2", "S3"]);
  });

  it("undoes, redoes, discards, and a discard can be undone", async () => {
    const { user, draft, now } = renderOnSite(smallSite(), <SaveStrip />);
    draft.edit(renamed(0, "Gate"));
    await user.click(await screen.findByRole("button", { name: "Undo" }));
    expect(now().stations[0]?.name).toBe("S1");
    await user.click(screen.getByRole("button", { name: "Redo" }));
    expect(now().stations[0]?.name).toBe("Gate");
    await user.click(screen.getByRole("button", { name: "Discard all" }));
    expect(now().stations[0]?.name).toBe("S1");
    await user.click(screen.getByRole("button", { name: "Undo" }));
    expect(now().stations[0]?.name).toBe("Gate");
  });

  it("keeps everything when the server cannot be reached, and says so", async () => {
    const { user, draft, now } = renderOnSite(smallSite(), <SaveStrip />);
    draft.edit(renamed(0, "Gate"));
    server();
    await user.click(await screen.findByRole("button", { name: "Save" }));
    expect(await screen.findByRole("alert")).toHaveTextContent("The server cannot be reached.");
    expect(now().stations[0]?.name).toBe("Gate");
    expect(screen.getByRole("button", { name: "Save" })).toBeEnabled();
  });

  it("does not send what is not right", async () => {
    const { user, draft } = renderOnSite(smallSite(), <SaveStrip />);
    draft.edit((f) => ({ ...f, stations: f.stations.map((s) => ({ ...s, mainlineId: "gone" })) }));
    const { asked } = server(answer(200, {}));
    await user.click(await screen.findByRole("button", { name: "Save" }));
    expect(await screen.findByRole("alert")).toHaveTextContent(/gone/);
    expect(asked).toHaveLength(0);
  });

  it("is closed to who only looks", async () => {
    const { draft } = renderOnSite(smallSite(), <SaveStrip />, { role: "viewer" });
    draft.store.setState({ draft: renamed(0, "Gate")(smallSite()) });
    expect(await screen.findByRole("button", { name: "Save" })).toBeDisabled();
  });
});

describe("a save by somebody else in between", () => {
  const refused = (file: SiteFile): Response =>
    answer(409, {
      error: { code: "staleVersion", message: "Saved meanwhile.", current: { version: 4, by: "Bo Tarn", file } },
    });

  it("is put together without a question where each changed something else; neither is lost", async () => {
    const { user, draft, now } = renderOnSite(smallSite(), <SaveStrip />);
    draft.edit(renamed(0, "Mine"));
    server(refused(renamed(1, "Theirs")(smallSite())));
    await user.click(await screen.findByRole("button", { name: "Save" }));
    await waitFor(() => expect(now().stations[1]?.name).toBe("Theirs"));
    expect(now().stations[0]?.name).toBe("Mine");
    expect(screen.queryByRole("alertdialog")).toBeNull();
    expect(draft.store.getState().version).toBe(4);
  });

  it("asks only about what both changed; mine never takes back what the other alone changed", async () => {
    const { user, draft, now } = renderOnSite(smallSite(), <SaveStrip />);
    draft.edit(renamed(0, "Mine"));
    server(refused(renamed(2, "Other")(renamed(0, "Theirs")(smallSite()))));
    await user.click(await screen.findByRole("button", { name: "Save" }));
    const asked = await screen.findByRole("alertdialog");
    expect(asked).toHaveTextContent("Bo Tarn saved revision 4 first");
    expect(within(asked).getAllByRole("listitem")).toHaveLength(1);
    await user.click(within(asked).getByRole("radio", { name: /^Yours/ }));
    await user.click(within(asked).getByRole("button", { name: "Put together" }));
    expect(now().stations.map((s) => s.name)).toEqual(["Mine", "S2", "Other"]);
    await user.click(screen.getByRole("button", { name: "Undo" }));
    expect(now().stations[2]?.name).not.toBe("S3");
  });

  it("theirs, if one wants, drops all of mine", async () => {
    const { user, draft, now } = renderOnSite(smallSite(), <SaveStrip />);
    draft.edit(renamed(0, "Mine"));
    draft.edit(renamed(1, "Also mine"));
    server(refused(renamed(0, "Theirs")(smallSite())));
    await user.click(await screen.findByRole("button", { name: "Save" }));
    await user.click(await screen.findByRole("button", { name: /Take theirs/ }));
    expect(now().stations.map((s) => s.name)).toEqual(["Theirs", "S2", "S3"]);
  });
});
