import type { SiteFile } from "./schema.ts";

/** Fresh ids that the file does not hold yet: `poc-3`. The file is read once, however many are asked for. */
export function freshIds(file: SiteFile, stem: string): () => string {
  const text = JSON.stringify(file);
  let n = 0;
  return () => {
    do n++;
    while (text.includes(`"${stem}-${n}"`));
    return `${stem}-${n}`;
  };
}

export function freshId(file: SiteFile, stem: string): string {
  return freshIds(file, stem)();
}
