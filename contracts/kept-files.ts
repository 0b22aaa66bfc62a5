import { z } from "zod";

/** The largest file that is kept, bytes. */
export const MOST_BYTES = 16 * 1024 * 1024;

/** What a file is, as its first bytes say. Pictures are shown; everything else is handed out only. */
export const fileType = z.enum([
  "image/jpeg",
  "image/png",
  "image/webp",
  "application/pdf",
  "application/octet-stream",
]);
export type FileType = z.infer<typeof fileType>;

export type KeptFile = { id: string; type: FileType; size: number };

/** A piece of a file that comes in several: after how many bytes it follows, and of how many in all. */
export const filePiece = z.strictObject({
  from: z.coerce.number().int().min(0).max(MOST_BYTES),
  of: z.coerce.number().int().min(1).max(MOST_BYTES),
});
export const PIECE_BYTES = 128 * 1024;
/** How much of a file is here; `whole`: it is kept. */
export type Arrived = { has: number; whole: boolean };
