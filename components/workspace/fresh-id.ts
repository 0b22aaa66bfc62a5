import type { SiteFile } from "@/core/site-file/schema";

/** A fresh id that the file does not hold yet: `poc-3`. */
export function freshId(file: SiteFile, stem: string): string {
  const text = JSON.stringify(file);
  for (let n = 1; ; n++) if (!text.includes(`"${stem}-${n}"`)) return `${stem}-${n}`;
}
