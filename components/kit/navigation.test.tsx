import { render, screen, within } from "@testing-library/react";
import userEvent from "@testing-library/user-event";
import { useState } from "react";
import { describe, expect, it, vi } from "vitest";
import { Branches } from "./branches";
import { type Column, DataTable } from "./data-table";
import { Menu } from "./menu";
import { Pager } from "./pager";
import { MultiSegments, Segments } from "./segments";

const VIEWS = [
  { id: "one", label: "One" },
  { id: "two", label: "Two", count: 3 },
  { id: "three", label: "Three" },
] as const;

function Views() {
  const [at, setAt] = useState<"one" | "two" | "three">("one");
  return <Branches label="Views" views={VIEWS} at={at} onChange={setAt} />;
}

describe("branches", () => {
  it("one takes the focus, the arrows go round", async () => {
    render(<Views />);
    const user = userEvent.setup();
    await user.tab();
    expect(screen.getByRole("tab", { name: "One" })).toHaveFocus();
    await user.keyboard("{ArrowLeft}");
    expect(screen.getByRole("tab", { name: "Three" })).toHaveAttribute("aria-selected", "true");
    expect(screen.getByRole("tab", { name: "Three" })).toHaveFocus();
    await user.keyboard("{ArrowRight}{ArrowRight}");
    expect(screen.getByRole("tab", { name: /Two/ })).toHaveFocus();
    expect(screen.getAllByRole("tab").filter((t) => t.tabIndex === 0)).toHaveLength(1);
  });
});

describe("segments", () => {
  it("say which is pressed; several keep their own order", async () => {
    const [one, several] = [vi.fn(), vi.fn()];
    const options = [
      { id: "mo", label: "Mo" },
      { id: "tu", label: "Tu" },
      { id: "we", label: "We" },
    ] as const;
    render(
      <>
        <Segments label="Day" options={options} at="tu" onChange={one} />
        <MultiSegments label="Days" options={options} on={["we"]} onChange={several} />
      </>,
    );
    const user = userEvent.setup();
    const day = within(screen.getByRole("group", { name: "Day" }));
    expect(day.getByRole("button", { name: "Tu" })).toHaveAttribute("aria-pressed", "true");
    await user.click(day.getByRole("button", { name: "Mo" }));
    expect(one).toHaveBeenCalledWith("mo");
    const days = within(screen.getByRole("group", { name: "Days" }));
    await user.click(days.getByRole("button", { name: "Mo" }));
    expect(several).toHaveBeenLastCalledWith(["mo", "we"]);
    await user.click(days.getByRole("button", { name: "We" }));
    expect(several).toHaveBeenLastCalledWith([]);
  });
});

describe("a menu", () => {
  it("opens, is closed by Escape with the focus back on its head, and by what is chosen", async () => {
    const chosen = vi.fn();
    render(
      <Menu label="Add">
        {(close) => (
          <button
            type="button"
            onClick={() => {
              close();
              chosen();
            }}
          >
            Source
          </button>
        )}
      </Menu>,
    );
    const user = userEvent.setup();
    const head = screen.getByRole("button", { name: "Add" });
    await user.click(head);
    expect(head).toHaveAttribute("aria-expanded", "true");
    await user.keyboard("{Escape}");
    expect(screen.queryByRole("button", { name: "Source" })).toBeNull();
    expect(head).toHaveFocus();
    await user.click(head);
    await user.click(screen.getByRole("button", { name: "Source" }));
    expect(chosen).toHaveBeenCalledOnce();
    expect(screen.queryByRole("button", { name: "Source" })).toBeNull();
  });
});

describe("a table", () => {
  type Row = { id: string; name: string; flow: number };
  const rows: Row[] = [
    { id: "a", name: "Gate", flow: 60 },
    { id: "b", name: "Bank", flow: 45 },
    { id: "c", name: "Yard", flow: 70 },
  ];
  const columns: Column<Row>[] = [
    { id: "name", header: "Name", accessorFn: (r) => r.name },
    { id: "flow", header: "Flow", accessorFn: (r) => r.flow, meta: { numeric: true } },
  ];
  const names = (): (string | null)[] =>
    screen
      .getAllByRole("row")
      .slice(1)
      .map((r) => within(r).getAllByRole("cell")[0]?.textContent ?? null);

  it("sorts by a heading, and the arrows go from row to row", async () => {
    const [onSelect, onOpen] = [vi.fn(), vi.fn()];
    render(
      <DataTable
        label="Flows"
        rows={rows}
        columns={columns}
        idOf={(r) => r.id}
        selected={null}
        onSelect={onSelect}
        onOpen={onOpen}
      />,
    );
    const user = userEvent.setup();
    await user.click(screen.getByRole("button", { name: "Name" }));
    expect(names()).toEqual(["Bank", "Gate", "Yard"]);
    expect(screen.getByRole("columnheader", { name: "Name" })).toHaveAttribute("aria-sort", "ascending");
    const first = screen.getAllByRole("row")[1] as HTMLElement;
    first.focus();
    await user.keyboard("{ArrowDown}");
    expect(onSelect).toHaveBeenLastCalledWith("a");
    first.focus();
    await user.keyboard("{Enter}");
    expect(onOpen).toHaveBeenCalledWith(rows[1]);
  });
});

describe("the pages of a list", () => {
  it("go on where more are there than were counted", async () => {
    const onPage = vi.fn();
    const user = userEvent.setup();
    const pages = (found: number, more: boolean) => (
      <Pager page={2} pageSize={50} found={found} more={more} onPage={onPage} />
    );
    const { rerender } = render(pages(100, true));
    expect(screen.getByText("51 to 100 of more than 100")).toBeInTheDocument();
    await user.click(screen.getByRole("button", { name: "Next" }));
    expect(onPage).toHaveBeenCalledWith(3);
    rerender(pages(100, false));
    expect(screen.getByText("51 to 100 of 100")).toBeInTheDocument();
    expect(screen.getByRole("button", { name: "Next" })).toBeDisabled();
  });
});
