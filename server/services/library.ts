import { libraryCsv } from "../../core/library/library-csv.ts";
import { type LibraryItem, parseBody } from "../../core/library/library-item.ts";
import { AppError } from "../app-error.ts";
import type { SignedIn } from "../auth/session.ts";
import { inTransaction } from "../db/connection.ts";
import { heavy } from "../heavy/pool.ts";
import { dropItem, keepItems, type KeptItem, libraryItems, lockItem } from "../db/library.ts";
import { unchangedSince } from "../db/seen.ts";
import { isUuid } from "../uuid.ts";
import { audited } from "./audited.ts";

/** The organisation's own devices. */
export async function library(user: SignedIn): Promise<KeptItem[]> {
  return libraryItems(user.organisationId);
}

/** @param seen when the one of that kind and name that the writer saw was kept; null: they saw none */
export async function keepDevice(
  user: SignedIn,
  request: { name: string; note: string; body: unknown },
  seen: string | null = null,
): Promise<KeptItem[]> {
  const parsed = parseBody(request.body);
  if (!parsed.ok) throw new AppError("badRequest", `That is not a device as a data sheet gives it: ${parsed.problem}.`);
  const { body } = parsed;
  const name = request.name.trim();
  await inTransaction(async () => {
    unchangedSince(await lockItem(user.organisationId, body.kind, name), seen, name);
    await keepItems(user.organisationId, user.userId, [{ name, note: request.note.trim(), body }]);
  });
  return library(user);
}

export type LibraryImport = {
  kept: number;
  refused: { line: number; problem: string }[];
  /** Rows that would have taken the place of another sheet, and were left. */
  others: string[];
  items: KeptItem[];
};

/**
 * Rows that are right are kept in one go; the others are told with their lines.
 *
 * @param replace that a device of the same kind and name takes the sheet of the file; without it, it stays and is named
 */
export async function importLibrary(user: SignedIn, text: string, replace: boolean): Promise<LibraryImport> {
  const { items, refused } = await heavy(user.organisationId, "libraryCsv", [text]);
  const others: string[] = [];
  const kept = await inTransaction(async () => {
    const known = new Map((await libraryItems(user.organisationId)).map((i) => [placeOf(i), i]));
    const taken = items.filter((i) => {
      const there = known.get(placeOf(i));
      if (!there || sheetOf(there) === sheetOf(i)) return there === undefined;
      if (!replace) others.push(i.name);
      return replace;
    });
    await keepItems(user.organisationId, user.userId, taken);
    return taken.length;
  });
  return { kept, refused, others, items: await library(user) };
}

const placeOf = ({ name, body }: LibraryItem): string => `${body.kind} ${name.toLowerCase()}`;
const sheetOf = ({ note, body }: LibraryItem): string =>
  JSON.stringify([note, Object.entries(body).sort(([a], [b]) => a.localeCompare(b))]);

export async function exportLibrary(user: SignedIn): Promise<string> {
  await audited(user, "exportedLibrary");
  return libraryCsv(await library(user));
}

export async function dropDevice(user: SignedIn, id: string): Promise<KeptItem[]> {
  const name = isUuid(id) ? await dropItem(user.organisationId, id) : null;
  if (name === null) throw new AppError("notFound", "There is no such device in your organisation's library.");
  await audited(user, "deletedDevice", name);
  return library(user);
}
