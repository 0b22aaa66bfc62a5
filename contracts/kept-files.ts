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
