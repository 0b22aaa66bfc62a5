import { render, screen, within } from "@testing-library/react";
import userEvent from "@testing-library/user-event";
import { useState } from "react";
import { describe, expect, it, vi } from "vitest";
import { savedFiles } from "@/testing/saved-files";
import { smallSite } from "@/testing/small-site";
import { Button, IconButton } from "./button";
import { type Column, DataTable } from "./data-table";
import { Dialog } from "./dialog";
import { FileButton } from "./file-button";
import { Trash2 } from "lucide-react";
import { fileStem, saveText } from "./save-file";
import { isTyping } from "./typing";

function Ask() {
  const [open, setOpen] = useState(false);
  return (
    <>
      <Button onClick={() => setOpen(true)}>Ask</Button>
      <Dialog title="Discard what is not saved?" open={open} onClose={() => setOpen(false)}>
        <p>Two stations were changed.</p>
      </Dialog>
    </>
  );
}

describe("a question over the screen", () => {
  it("has its title for a name, and is drawn only while it is open", async () => {
    const user = userEvent.setup();
    render(<Ask />);
    expect(screen.queryByText("Two stations were changed.")).toBeNull();
    await user.click(screen.getByRole("button", { name: "Ask" }));
    const asked = screen.getByRole("dialog", { name: "Discard what is not saved?" });
    expect(asked).toHaveTextContent("Two stations were changed.");
    await user.click(within(asked).getByRole("button", { name: "Close" }));
    expect(screen.queryByText("Two stations were changed.")).toBeNull();
  });
});

describe("a button", () => {
  it("that shows only a sign has words for readers and for whoever points at it", async () => {
    const press = vi.fn();
    const user = userEvent.setup();
    render(<IconButton label="Take station 3 out" icon={Trash2} onClick={press} />);
    const button = screen.getByRole("button", { name: "Take station 3 out" });
    expect(button).toHaveAttribute("title", "Take station 3 out");
    button.focus();
    await user.keyboard(" ");
    expect(press).toHaveBeenCalledOnce();
  });
  it("sends no form that it was not made to send", async () => {
    const sent = vi.fn((e: React.FormEvent) => e.preventDefault());
    const user = userEvent.setup();
    render(
      <form onSubmit={sent}>
        <Button>Work it out</Button>
        <Button type="submit">Save</Button>
      </form>,
    );
    await user.click(screen.getByRole("button", { name: "Work it out" }));
    expect(sent).not.toHaveBeenCalled();
    await user.click(screen.getByRole("button", { name: "Save" }));
    expect(sent).toHaveBeenCalledOnce();
  });
});

describe("a file", () => {
  it("is chosen behind a button, and the same may be chosen again", async () => {
    const onFile = vi.fn();
    const user = userEvent.setup();
    render(
      <FileButton name="A list of stations" accept=".csv" onFile={onFile}>
        Open a list
      </FileButton>,
    );
    const list = new File(["number,name\n1,Gate"], "stations.csv", { type: "text/csv" });
    const chooser = screen.getByLabelText("A list of stations") as HTMLInputElement;
    const asked = vi.spyOn(chooser, "click");
    await user.click(screen.getByRole("button", { name: "Open a list" }));
    expect(asked).toHaveBeenCalledOnce();
    await user.upload(chooser, list);
    expect(onFile).toHaveBeenCalledWith(list);
    expect(chooser.value).toBe("");
    await user.upload(chooser, list);
    expect(onFile).toHaveBeenCalledTimes(2);
  });
  it("is handed to the person under a name that every system takes", async () => {
    const files = savedFiles();
    const site = smallSite();
    site.site.id = "north/field 2";
    saveText("a,b\n1,2\n", `${fileStem(site)}.csv`, "text/csv");
    expect(files.map((f) => [f.name, f.type])).toEqual([["north_field_2.csv", "text/csv"]]);
    expect(await files[0]?.text).toBe("a,b\n1,2\n");
  });
});

describe("single keys", () => {
  const pressed = (at: HTMLElement, more: KeyboardEventInit = {}): boolean => {
    let typing = false;
    const hear = (e: KeyboardEvent): void => {
      typing = isTyping(e);
    };
    document.body.append(at);
    document.addEventListener("keydown", hear);
    at.dispatchEvent(new KeyboardEvent("keydown", { key: "t", bubbles: true, ...more }));
    document.removeEventListener("keydown", hear);
    at.remove();
    return typing;
  };
  const input = (type: string): HTMLInputElement => Object.assign(document.createElement("input"), { type });
  it("are off where letters are typed, and with a key that belongs to the browser", () => {
    expect(pressed(input("text"))).toBe(true);
    expect(pressed(document.createElement("textarea"))).toBe(true);
    expect(pressed(document.createElement("select"))).toBe(true);
    expect(pressed(document.createElement("p"), { metaKey: true })).toBe(true);
    expect(pressed(document.createElement("p"), { altKey: true })).toBe(true);
  });
  it("work on a tick, a slider, a button and the page", () => {
    for (const type of ["checkbox", "radio", "range", "button"]) expect(pressed(input(type)), type).toBe(false);
    expect(pressed(document.createElement("button"))).toBe(false);
    expect(pressed(document.createElement("p"))).toBe(false);
  });
});

describe("a long table", () => {
  type Row = { id: string; number: number };
  const rows: Row[] = Array.from({ length: 400 }, (_, i) => ({ id: `s${i + 1}`, number: i + 1 }));
  const columns: Column<Row>[] = [
    { id: "number", header: "No.", accessorFn: (r) => r.number, meta: { numeric: true } },
    { id: "name", header: "Name", cell: (c) => `Station ${c.row.original.number}`, enableSorting: false },
  ];
  it("draws only what is in sight, and tells readers how many there are", () => {
    render(<DataTable label="Stations" rows={rows} columns={columns} idOf={(r) => r.id} />);
    expect(screen.getByRole("table", { name: "Stations" })).toHaveAttribute("aria-rowcount", "401");
    expect(screen.getAllByRole("row").length).toBeLessThan(100);
  });
  it("begins sorted as asked; a column that has no order has no button", () => {
    render(
      <DataTable
        label="Stations"
        rows={rows.slice(0, 3)}
        columns={columns}
        idOf={(r) => r.id}
        sorting={[{ id: "number", desc: true }]}
      />,
    );
    expect(screen.getAllByRole("row").map((r) => r.textContent)).toEqual([
      expect.stringContaining("No."),
      "3Station 3",
      "2Station 2",
      "1Station 1",
    ]);
    expect(screen.getByRole("columnheader", { name: "No." })).toHaveAttribute("aria-sort", "descending");
    expect(screen.queryByRole("button", { name: "Name" })).toBeNull();
  });
  it("of nothing says what to do", () => {
    render(
      <DataTable label="Stations" rows={[]} columns={columns} idOf={(r: Row) => r.id} empty={<p>Paste a list.</p>} />,
    );
    expect(screen.getByText("Paste a list.")).toBeInTheDocument();
  });
  it("that only shows takes no focus from the keyboard", () => {
    render(<DataTable label="Stations" rows={rows.slice(0, 3)} columns={columns} idOf={(r) => r.id} />);
    expect(screen.getAllByRole("row").some((r) => r.tabIndex === 0)).toBe(false);
  });
});
