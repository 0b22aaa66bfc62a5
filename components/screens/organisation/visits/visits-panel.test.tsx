import { screen, waitFor, within } from "@testing-library/react";
import { afterEach, describe, expect, it, vi } from "vitest";
import type { VisitSetup } from "@/contracts/visits";
import { USUAL_CHECKLISTS } from "@/core/visits/checklists";
import { USUAL_RULES } from "@/core/visits/duties";
import { server, show } from "@/testing/page-server";
import { VisitsPanel } from "./visits-panel";

afterEach(() => vi.unstubAllGlobals());

describe("checklists and what is asked for", () => {
  it("are written line by line, put in their order and kept together, with what was looked at", async () => {
    let setup: VisitSetup = { checklists: [...USUAL_CHECKLISTS], duties: USUAL_RULES, version: 4 };
    const sent = server(({ method, body }) => {
      if (method === "PATCH") setup = { ...(body as VisitSetup), version: 5 };
      return setup;
    });
    const user = show(<VisitsPanel />);
    const keep = await screen.findByRole("button", { name: "Keep" });
    expect(keep).toBeDisabled();
    await user.click(screen.getByRole("button", { name: "Monthly" }));
    await user.click(screen.getByRole("button", { name: "Line 2 up" }));
    await user.click(screen.getByRole("button", { name: "Another line" }));
    await user.click(keep);
    expect(await screen.findByText("A line needs words.")).toBeInTheDocument();
    const lines = screen.getByRole("list", { name: "Lines" });
    await user.type(within(lines).getByLabelText("Line 11"), "Gate locked");
    await user.selectOptions(within(lines).getByLabelText("What line 11 does anew"), "may do anew: backup battery");
    await user.click(screen.getByRole("checkbox", { name: "winter shut-down is asked for" }));
    const day = screen.getByLabelText("Month and day: winter shut-down");
    await user.clear(day);
    await user.type(day, "02-30");
    await user.click(keep);
    expect(await screen.findByText(/is not a day of every year/)).toBeInTheDocument();
    await user.clear(day);
    await user.type(day, "10-20");
    await user.click(keep);
    await waitFor(() => expect(sent.some((s) => s.method === "PATCH")).toBe(true));
    const kept = sent.findLast((s) => s.method === "PATCH")?.body as VisitSetup;
    expect(kept.version).toBe(4);
    expect(kept.duties.winter).toEqual({ asked: true, onDay: "10-20" });
    const monthly = kept.checklists.find((c) => c.id === "monthly");
    expect(monthly?.lines.slice(0, 2).map((l) => l.id)).toEqual(["clock", "automatic"]);
    expect(monthly?.lines.at(-1)).toMatchObject({ words: "Gate locked", duty: "battery" });
    await waitFor(() => expect(keep).toBeDisabled());
  });
  it("are added and taken out; what is wrong in one that is not shown is told", async () => {
    server(() => ({ checklists: USUAL_CHECKLISTS.slice(0, 1), duties: USUAL_RULES, version: 0 }));
    const user = show(<VisitsPanel />);
    await user.click(await screen.findByRole("button", { name: "Another kind" }));
    expect(screen.getByLabelText("Kind of visit")).toHaveValue("New kind of visit");
    await user.click(screen.getByRole("button", { name: "Spring start" }));
    await user.click(screen.getByRole("button", { name: "Keep" }));
    expect(await screen.findByText(/New kind of visit is not complete/)).toBeVisible();
    await user.click(screen.getByRole("button", { name: "New kind of visit" }));
    await user.click(screen.getByRole("button", { name: "Take this kind out" }));
    expect(screen.queryByRole("button", { name: "Take this kind out" })).toBeNull();
  });
});
