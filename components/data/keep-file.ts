import { smallerPicture } from "@/components/kit/smaller-picture";
import type { KeptFile } from "@/contracts/kept-files";
import { request } from "./request";

/** As the site file names it. */
export type NamedFile = { id: string; name: string };

const LONGEST_NAME = 100;

/** What a file is called here: the end of a long name tells more than its beginning. */
export const keptName = (file: File): string => file.name.slice(-LONGEST_NAME) || "file";

/** A file as it is kept: a picture no larger than it need be, everything else as it is. */
export async function asKept(file: File): Promise<{ content: Blob; name: string }> {
  const name = keptName(file);
  if (!file.type.startsWith("image/")) return { content: file, name };
  try {
    return { content: await smallerPicture(file), name: `${name.replace(/\.[^.]*$/, "")}.jpg` };
  } catch {
    throw new Error(`${file.name} could not be read as a picture.`);
  }
}

/** Sends what a file is to be kept beside the site, under an id of its own. The site file names it once the change is saved. */
export async function keepFile(siteId: string, content: Blob, name: string): Promise<NamedFile> {
  const { id } = await request<KeptFile>("POST", keptAt(siteId, crypto.randomUUID()), content);
  return { id, name };
}

export const keptAt = (siteId: string, fileId: string): string =>
  `/api/sites/${siteId}/files/${encodeURIComponent(fileId)}`;
