import { type Patch, patched } from "@/core/site-file/patch";
import type { SiteFile } from "@/core/site-file/schema";

type Listed = "sources" | "pocs" | "mainlines" | "controllers" | "stations" | "programs";

/** New values for one element of a list, known by its id. */
const patchIn =
  <K extends Listed>(list: K) =>
  (id: string, values: Patch<SiteFile[K][number]>) =>
  (file: SiteFile): SiteFile => ({
    ...file,
    [list]: file[list].map((e) => (e.id === id ? patched(e, values as Patch<typeof e>) : e)),
  });
export const patchSource = patchIn("sources");
export const patchPoc = patchIn("pocs");
export const patchMainline = patchIn("mainlines");
export const patchController = patchIn("controllers");
export const patchStation = patchIn("stations");
export const patchProgram = patchIn("programs");

/** New words for whichever element of the waterworks or controller has the id. */
export const patchElement =
  (id: string, values: { description?: string | undefined; notes?: string | undefined }) =>
  (file: SiteFile): SiteFile =>
    [patchSource, patchPoc, patchMainline, patchController].reduce((f, patch) => patch(id, values)(f), file);
