import { screen, waitFor } from "@testing-library/react";
import { afterEach, describe, expect, it, vi } from "vitest";
import { server, show } from "@/testing/page-server";
import { SettingsForm } from "./settings-form";

afterEach(() => vi.unstubAllGlobals());

describe("settings of the organisation", () => {
  it("are changed together; a zone that is none is told at its field, an empty one is nobody's", async () => {
    let now: object = { name: "Tests and Sons", timeZone: "Europe/Vienna", units: "metric", school: "watchful" };
    const sent = server(({ method, body }) => {
      if (method === "PATCH") now = body as object;
      return now;
    });
    const user = show(<SettingsForm />);
    const keep = await screen.findByRole("button", { name: "Keep" });
    expect(keep).toBeDisabled();
    const zone = screen.getByLabelText("Time zone");
    await user.clear(zone);
    await user.type(zone, "Middle/Earth");
    await user.click(keep);
    expect(await screen.findByText(/is not a time zone/)).toBeInTheDocument();
    await user.clear(zone);
    await user.selectOptions(screen.getByLabelText(/^Units/), "us");
    await user.selectOptions(screen.getByLabelText(/^Limits/), "steady");
    await user.click(keep);
    await waitFor(() =>
      expect(sent.findLast((s) => s.method === "PATCH")?.body).toEqual({
        name: "Tests and Sons",
        timeZone: null,
        units: "us",
        school: "steady",
      }),
    );
    await waitFor(() => expect(keep).toBeDisabled());
  });
});
