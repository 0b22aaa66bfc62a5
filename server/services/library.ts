import { libraryCsv, parseLibraryCsv } from "../../core/library/library-csv.ts";
import { parseBody } from "../../core/library/library-item.ts";
import { AppError } from "../app-error.ts";
import type { SignedIn } from "../auth/session.ts";
import { inTransaction } from "../db/connection.ts";
import { dropItem, keepItems, type KeptItem, libraryItems } from "../db/library.ts";
import { isUuid } from "./sites.ts";

/** The organisation's own devices. */
export async function library(user: SignedIn): Promise<KeptItem[]> {
  return libraryItems(user.organisationId);
}

export async function keepDevice(
  user: SignedIn,
  request: { name: string; note: string; body: unknown },
): Promise<KeptItem[]> {
  const parsed = parseBody(request.body);
  if (!parsed.ok) throw new AppError("badRequest", `That is not a device as a data sheet gives it: ${parsed.problem}.`);
  await keepItems(user.organisationId, user.userId, [
    { name: request.name.trim(), note: request.note.trim(), body: parsed.body },
  ]);
  return library(user);
}

/** Rows that are right are kept in one go; the others are told with their lines. */
export async function importLibrary(
  user: SignedIn,
  text: string,
): Promise<{ kept: number; refused: { line: number; problem: string }[]; items: KeptItem[] }> {
  const { items, refused } = parseLibraryCsv(text);
  await inTransaction(() => keepItems(user.organisationId, user.userId, items));
  return { kept: items.length, refused, items: await library(user) };
}

export async function exportLibrary(user: SignedIn): Promise<string> {
  return libraryCsv(await library(user));
}

export async function dropDevice(user: SignedIn, id: string): Promise<KeptItem[]> {
  if (!isUuid(id) || !(await dropItem(user.organisationId, id)))
    throw new AppError("notFound", "There is no such device in your organisation's library.");
  return library(user);
}
