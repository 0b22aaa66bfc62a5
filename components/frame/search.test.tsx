import { render, screen, waitFor } from "@testing-library/react";
import userEvent from "@testing-library/user-event";
import { afterEach, describe, expect, it, vi } from "vitest";
import { DataProvider } from "@/components/data/data-provider";
import type { Found } from "@/contracts/search";
import { SearchEverything } from "./search-everything";
import { usePageKeys, useSearching } from "./search";

afterEach(() => vi.unstubAllGlobals());

const FOUND: Found[] = [
  { kind: "site", id: "s1", name: "Alder Walk", about: "site", at: "/sites/s1/night" },
  { kind: "piece", id: "s1 a", name: "12 Alder bed", about: "station, Brine House", at: "/sites/s2/stations?at=a" },
];
const answers = (found: Found[]): string[] => {
  const asked: string[] = [];
  vi.stubGlobal("fetch", async (path: string) => {
    asked.push(path);
    return new Response(JSON.stringify({ found }), { headers: { "content-type": "application/json" } });
  });
  return asked;
};

describe("search over everything", () => {
  const open = () => {
    const go = vi.fn();
    render(
      <DataProvider>
        <SearchEverything open onClose={vi.fn()} go={go} />
      </DataProvider>,
    );
    return { user: userEvent.setup(), go };
  };
  it("tells what is called as written, by kind, and goes there with Enter", async () => {
    const asked = answers(FOUND);
    const { user, go } = open();
    await user.keyboard("alder");
    expect(await screen.findByText("Stations, devices and other pieces")).toBeInTheDocument();
    expect(asked).toEqual(["/api/search?q=alder"]);
    await user.keyboard("{ArrowDown}{Enter}");
    expect(go).toHaveBeenCalledExactlyOnceWith("/sites/s2/stations?at=a");
  });
  it("says when nothing is called that", async () => {
    answers([]);
    const { user } = open();
    await user.keyboard("zz");
    expect(await screen.findByText("Nothing is called that.")).toBeInTheDocument();
  });
});

function Page() {
  const { searching, onSearch } = useSearching();
  usePageKeys(onSearch);
  return (
    <>
      <input aria-label="Find" data-find />
      <p>{searching ? "searching" : "not"}</p>
    </>
  );
}

describe("keys of pages that belong to no site", () => {
  it("are / to search everything and f to find on the page; letters where one types", async () => {
    const user = userEvent.setup();
    render(<Page />);
    await user.keyboard("f");
    expect(screen.getByLabelText("Find")).toHaveFocus();
    await user.keyboard("/f");
    expect(screen.getByLabelText("Find")).toHaveValue("/f");
    screen.getByLabelText("Find").blur();
    await user.keyboard("/");
    await waitFor(() => expect(screen.getByText("searching")).toBeInTheDocument());
  });
});
