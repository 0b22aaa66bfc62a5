import { type Arrived, type FileType, type KeptFile, MOST_BYTES } from "../../contracts/kept-files.ts";
import { AppError } from "../app-error.ts";
import type { SignedIn } from "../auth/session.ts";
import { inTransaction } from "../db/connection.ts";
import {
  addPiece,
  arrivedOf,
  bytesArriving,
  bytesKept,
  fileOf,
  insertFile,
  takeArrived,
  typeOf,
} from "../db/kept-files.ts";
import { Fair } from "../fair.ts";
import { mustBeWorkedOn, siteOf } from "./sites.ts";

const MB = 1024 * 1024;
/** What one organisation keeps at most, bytes. */
const MOST_KEPT = 8 * 1024 * MB;
/** Files being taken in at once, each whole in memory. */
const turns = new Fair({ places: 16, most: 2, waiting: 60, what: "files" });

export const TOO_LARGE = `The file is larger than ${MOST_BYTES / MB} MB. Make it smaller, or keep it elsewhere and name the place in the notes.`;

type Asked = { siteId: string; fileId: string };

/** What a file is by its first bytes, whatever it is called. */
export function typeByContent(bytes: Buffer): FileType {
  const text = (from: number, to: number): string => bytes.subarray(from, to).toString("latin1");
  if (bytes[0] === 0xff && bytes[1] === 0xd8 && bytes[2] === 0xff) return "image/jpeg";
  if (text(0, 8) === "\x89PNG\r\n\x1a\n") return "image/png";
  if (text(0, 4) === "RIFF" && text(8, 12) === "WEBP") return "image/webp";
  if (text(0, 5) === "%PDF-") return "application/pdf";
  return "application/octet-stream";
}

/**
 * Keeps what a file is, under an id that whoever sends it chose: sent twice, it is kept once. A revision names it afterwards; what none names goes after a week.
 *
 * @param read the content, once it is this one's turn
 */
export async function keepFile(
  user: SignedIn,
  { siteId, fileId }: Asked,
  read: () => Promise<Buffer>,
): Promise<KeptFile> {
  mustBeWorkedOn(await siteOf(user, siteId));
  const leave = await turns.enter(user.organisationId);
  try {
    return await keepContent(user, { siteId, fileId }, await read());
  } finally {
    leave();
  }
}

async function keepContent(user: SignedIn, { siteId, fileId }: Asked, content: Buffer): Promise<KeptFile> {
  if (content.length === 0) throw new AppError("badRequest", "The file is empty. Choose another.");
  if ((await bytesKept(user.organisationId)) + content.length > MOST_KEPT)
    throw new AppError(
      "tooLarge",
      `Your organisation keeps ${MOST_KEPT / 1024 / MB} GB of files already, which is all there is room for. Nothing was kept.`,
    );
  const type = typeByContent(content);
  const { organisationId, name: keptBy } = user;
  if (!(await insertFile({ id: fileId, organisationId, siteId, type, content, keptBy }))) {
    const there = await typeOf(siteId, fileId);
    if (there?.size !== content.length)
      throw new AppError("conflict", "Another file was kept under this id. Choose the file once more.");
  }
  return { id: fileId, type, size: content.length };
}

/** What may lie here of files that are not whole yet, bytes of one organisation. */
const MOST_ARRIVING = 512 * MB;

/** How much of a file is here: where it broke off it goes on. */
export async function arrived(user: SignedIn, { siteId, fileId }: Asked): Promise<Arrived> {
  await siteOf(user, siteId);
  const kept = await typeOf(siteId, fileId);
  return kept ? { has: kept.size, whole: true } : { has: (await arrivedOf(siteId, fileId)) ?? 0, whole: false };
}

/** Takes in a piece of a file, and keeps the file once it is whole. A piece that does not follow what is here is left: the answer says where to go on. */
export async function takePiece(
  user: SignedIn,
  { siteId, fileId }: Asked,
  read: () => Promise<{ from: number; of: number; piece: Buffer }>,
): Promise<Arrived> {
  mustBeWorkedOn(await siteOf(user, siteId));
  const leave = await turns.enter(user.organisationId);
  try {
    const { from, of, piece } = await read();
    if ((await bytesArriving(user.organisationId)) + piece.length > MOST_ARRIVING)
      throw new AppError(
        "tooLarge",
        "Too many files of your organisation have begun to come and never ended. Send this one tomorrow.",
      );
    if (piece.length === 0 || from + piece.length > of)
      throw new AppError("badRequest", "This piece does not fit into its file. Choose the file once more.");
    return await inTransaction(async () => {
      const { organisationId } = user;
      if (!(await typeOf(siteId, fileId))) {
        await addPiece({ id: fileId, organisationId, siteId, ofBytes: of }, from, piece);
        const content = await takeArrived(siteId, fileId, of);
        if (content) await keepContent(user, { siteId, fileId }, content);
      }
      return arrived(user, { siteId, fileId });
    });
  } finally {
    leave();
  }
}

const notHere = (): AppError => new AppError("notFound", "This file is named, but not kept here.");

export async function keptFile(
  user: SignedIn,
  { siteId, fileId }: Asked,
): Promise<{ type: FileType; content: Buffer }> {
  await siteOf(user, siteId);
  const found = await fileOf(siteId, fileId);
  if (!found) throw notHere();
  return found;
}

/** That it is there and may be seen, without its content. */
export async function mustBeKept(user: SignedIn, { siteId, fileId }: Asked): Promise<void> {
  await siteOf(user, siteId);
  if (!(await typeOf(siteId, fileId))) throw notHere();
}
