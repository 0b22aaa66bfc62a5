import { act, render, screen } from "@testing-library/react";
import userEvent from "@testing-library/user-event";
import { beforeEach, describe, expect, it, vi } from "vitest";
import { renderOnSite } from "@/testing/site-around";
import { smallSite } from "@/testing/small-site";
import { useNightDate } from "./use-night-date";
import { isDate, oneOf, useScreenParam } from "./use-screen-param";

vi.mock("next/navigation", () => import("@/testing/navigation-here"));

const at = (address: string): void => act(() => window.history.replaceState(null, "", address));
const isView = oneOf([{ id: "jaw" }, { id: "hand" }]);

function View({ add = true }: { add?: boolean }) {
  const [view, setView] = useScreenParam<string>("view", "jaw", { add, fits: isView });
  return (
    <p>
      <output>{view}</output>
      <button type="button" onClick={() => setView("hand")}>
        hand
      </button>
      <button type="button" onClick={() => setView("jaw")}>
        jaw
      </button>
    </p>
  );
}
function Night() {
  const [date, setDate] = useNightDate();
  return (
    <p>
      <output>{date}</output>
      <button type="button" onClick={() => setDate("2026-07-21")}>
        later
      </button>
    </p>
  );
}
beforeEach(() => at("/sites/site/limits"));

describe("what a screen shows, in the address", () => {
  it("is left out where it is the usual, and leaves what else stands there", async () => {
    at("/sites/site/limits?at=s2");
    const user = userEvent.setup();
    render(<View />);
    await user.click(screen.getByRole("button", { name: "hand" }));
    expect(window.location.search).toBe("?at=s2&view=hand");
    expect(screen.getByRole("status")).toHaveTextContent("hand");
    await user.click(screen.getByRole("button", { name: "jaw" }));
    expect(window.location.search).toBe("?at=s2");
  });
  it("is a step for Back where it is asked for, else takes the place of the one before", async () => {
    const user = userEvent.setup();
    const before = window.history.length;
    const { rerender } = render(<View add={false} />);
    await user.click(screen.getByRole("button", { name: "hand" }));
    expect(window.history.length).toBe(before);
    rerender(<View />);
    await user.click(screen.getByRole("button", { name: "jaw" }));
    expect(window.history.length).toBe(before + 1);
  });
  it.each(["?view=gone", "?view=", "?view=JAW"])("that is none of its views, %s, is the usual one", (search) => {
    at(`/sites/site/limits${search}`);
    render(<View />);
    expect(screen.getByRole("status")).toHaveTextContent("jaw");
  });
  it.each(["2026-07-21", "2026-02-30", "21.7.2026", "2026-7-1", ""])(
    "%s is taken for a date only if it is one",
    (text) => {
      expect(isDate(text)).toBe(text === "2026-07-21");
    },
  );
});

describe("the night a site's screens speak of", () => {
  it("is the site's until one is named in the address, which every other screen then speaks of too", () => {
    at("/sites/site/night?date=2026-08-04");
    const { now, draft } = renderOnSite(smallSite(), <Night />);
    expect(now()).toEqual(smallSite());
    expect(draft.store.getState().date).toBe("2026-08-04");
    expect(screen.getByRole("status")).toHaveTextContent("2026-08-04");
  });
  it("is changed in both places; no date at all is passed over", async () => {
    at("/sites/site/bench?date=tomorrow");
    const { user, draft } = renderOnSite(smallSite(), <Night />);
    expect(screen.getByRole("status")).toHaveTextContent("2026-07-14");
    await user.click(screen.getByRole("button", { name: "later" }));
    expect(draft.store.getState().date).toBe("2026-07-21");
    expect(window.location.search).toBe("?date=2026-07-21");
  });
});
