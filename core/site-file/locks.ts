import type { SiteFile } from "./schema.ts";

/** The site with these stations, mainlines and POCs locked out, or free. */
export function withLocks(file: SiteFile, ids: readonly string[], locked: boolean): SiteFile {
  const set = <T extends { id: string; lockedOut?: boolean | undefined }>(items: T[]): T[] =>
    items.map((item) => {
      if (!ids.includes(item.id)) return item;
      const { lockedOut: _, ...rest } = item;
      return (locked ? { ...rest, lockedOut: true } : rest) as T;
    });
  return { ...file, stations: set(file.stations), mainlines: set(file.mainlines), pocs: set(file.pocs) };
}

/** Ids of what is locked out. */
export const lockedIn = (file: SiteFile): string[] =>
  [...file.stations, ...file.mainlines, ...file.pocs].filter((x) => x.lockedOut).map((x) => x.id);
