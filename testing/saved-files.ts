import { vi } from "vitest";

export type SavedFile = { name: string; type: string; text: Promise<string> };

const textOf = (blob: Blob): Promise<string> =>
  new Promise((yes) => {
    const reader = new FileReader();
    reader.onload = () => yes(String(reader.result));
    reader.readAsText(blob);
  });

/** What the page hands to the person as files from here on, in its order. */
export function savedFiles(): SavedFile[] {
  const files: SavedFile[] = [];
  let last: Blob | null = null;
  URL.createObjectURL = (blob: Blob) => {
    last = blob;
    return "blob:saved";
  };
  URL.revokeObjectURL = () => {};
  vi.spyOn(HTMLAnchorElement.prototype, "click").mockImplementation(function click(this: HTMLAnchorElement) {
    if (last) files.push({ name: this.download, type: last.type, text: textOf(last) });
  });
  return files;
}
