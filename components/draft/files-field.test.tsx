import { fireEvent, screen, waitFor } from "@testing-library/react";
import { afterEach, describe, expect, it, vi } from "vitest";
import { renderOnSite } from "@/testing/site-around";
import { smallSite } from "@/testing/small-site";
import { useWorkspace } from "./site-draft";
import { WordsFields } from "./words-fields";

vi.mock("@/components/kit/smaller-picture", () => ({ smallerPicture: async () => new Blob(["small"]) }));
afterEach(() => vi.unstubAllGlobals());

const ID = "7b0e3a52-1111-4222-8333-944455556666";
function server(answer: () => Response): { path: string; size: number }[] {
  const sent: { path: string; size: number }[] = [];
  vi.stubGlobal("fetch", async (path: string, init?: RequestInit) => {
    sent.push({ path, size: init?.body instanceof Blob ? init.body.size : 0 });
    return answer();
  });
  return sent;
}
function OfStation() {
  const { draft } = useWorkspace("draft");
  return <WordsFields of={draft.stations[0] as never} put={() => {}} />;
}
const files = (now: () => ReturnType<typeof smallSite>) => now().stations[0]?.files;

describe("photographs and papers of a piece", () => {
  it("are kept at once, described, and taken off, as changes to be saved", async () => {
    const sent = server(() => Response.json({ id: ID, type: "image/jpeg", size: 5 }));
    const { user, now } = renderOnSite(smallSite(), <OfStation />);
    await user.upload(screen.getByLabelText("A photograph"), new File(["x"], "Gate 3.HEIC", { type: "image/heic" }));
    await waitFor(() => expect(files(now)).toEqual([{ id: ID, name: "Gate 3.jpg" }]));
    expect(sent).toEqual([{ path: expect.stringMatching(/^\/api\/sites\/site\/files\/[0-9a-f-]{36}$/), size: 5 }]);
    await user.type(screen.getByLabelText("What Gate 3.jpg shows"), "Under the lid{Enter}");
    expect(files(now)).toEqual([{ id: ID, name: "Gate 3.jpg", about: "Under the lid" }]);
    const look = screen.getByRole("img", { name: "Under the lid" });
    expect(look).toHaveAttribute("src", `/api/sites/site/files/${ID}`);
    fireEvent.error(look);
    expect(screen.getByText("named only, not kept here")).toBeInTheDocument();
    await user.click(screen.getByRole("button", { name: "Take Gate 3.jpg off" }));
    expect(now().stations[0]).not.toHaveProperty("files");
  });
  it("one that is refused leaves nothing named, and says why", async () => {
    const refused = { error: { code: "tooLarge", message: "The file is larger than 16 MB." } };
    server(() => Response.json(refused, { status: 413 }));
    const { user, now } = renderOnSite(smallSite(), <OfStation />);
    await user.upload(screen.getByLabelText("A file"), new File(["x"], "manual.pdf", { type: "application/pdf" }));
    expect(await screen.findByText(/larger than 16 MB/)).toBeInTheDocument();
    expect(files(now)).toBeUndefined();
  });
  it("a viewer looks at them; where a plan has a pin, the way there is shown", () => {
    const file = smallSite((s) => {
      Object.assign(s.stations[0] ?? {}, { files: [{ id: ID, name: "notes.pdf", about: "As built" }] });
      s.plans = [{ id: "north", name: "North", pins: [{ id: s.stations[0]?.id ?? "", x: 0.5, y: 0.5 }] }];
    });
    renderOnSite(file, <OfStation />, { role: "viewer" });
    expect(screen.getByRole("link", { name: "notes.pdf" })).toHaveAttribute("download", "notes.pdf");
    expect(screen.getByText("As built")).toBeInTheDocument();
    expect(screen.queryByRole("button")).toBeNull();
    expect(screen.getByRole("link", { name: "On the plan North" })).toHaveAttribute(
      "href",
      "/sites/site/waterworks?view=plan&plan=north&at=s1",
    );
  });
});
