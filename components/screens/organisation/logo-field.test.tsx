import { screen, waitFor } from "@testing-library/react";
import { afterEach, describe, expect, it, vi } from "vitest";
import type { LogoFacts } from "@/contracts/logo";
import { refused, server, show } from "@/testing/page-server";
import { LogoField } from "./logo-field";

afterEach(() => vi.unstubAllGlobals());

const PICTURE = new File(["x"], "mark.png", { type: "image/png" });

describe("the logo for paper", () => {
  it("is chosen, shown, and taken out again", async () => {
    let logo: LogoFacts = null;
    const sent = server(({ method }) => {
      if (method === "POST") logo = { version: "v1", setBy: "Ada", setAt: "2026-07-14T10:00:00.000Z" };
      if (method === "DELETE") logo = null;
      return { logo };
    });
    const user = show(<LogoField />);
    expect(await screen.findByRole("button", { name: "Choose a logo…" })).toBeInTheDocument();
    await user.upload(screen.getByLabelText("Logo"), PICTURE);
    const shown = await screen.findByRole("img", { name: "The logo as it stands" });
    expect(shown).toHaveAttribute("src", "/api/organisation/logo/picture?v=v1");
    await user.click(screen.getByRole("button", { name: "Take it out" }));
    await waitFor(() => expect(screen.queryByRole("img")).toBeNull());
    expect(sent.filter((s) => s.method !== "GET").map((s) => s.method)).toEqual(["POST", "DELETE"]);
  });
  it("that is none is refused in words, and what stood stays", async () => {
    const stands = { version: "v1", setBy: "Ada", setAt: "2026-07-14T10:00:00.000Z" };
    server(({ method }) =>
      method === "POST" ? refused(400, "badRequest", "A logo is a PNG or a JPEG.") : { logo: stands },
    );
    const user = show(<LogoField />);
    await screen.findByRole("img");
    await user.upload(screen.getByLabelText("Logo"), PICTURE);
    expect(await screen.findByText("A logo is a PNG or a JPEG.")).toBeInTheDocument();
    expect(screen.getByRole("img")).toBeInTheDocument();
  });
});
