import type { SiteFile } from "@/core/site-file/schema";

/** Hands a text to the person as a file. */
export function saveText(text: string, name: string, type: string): void {
  saveBlob(new Blob([text], { type }), name);
}

export function saveBlob(blob: Blob, name: string): void {
  const link = document.createElement("a");
  link.href = URL.createObjectURL(blob);
  link.download = name;
  link.click();
  setTimeout(() => URL.revokeObjectURL(link.href), 10_000);
}

export function fileStem(site: SiteFile): string {
  return site.site.id.replace(/[^a-zA-Z0-9._-]/g, "_");
}
