import { request } from "@/components/data/request";
import { keptAt } from "@/components/data/keep-file";
import type { Along } from "@/contracts/along";
import type { Arrived } from "@/contracts/kept-files";
import type { Office } from "./sending";

/** The office over the network. */
export const office: Office = {
  enter: (siteId, entry) => request("POST", `/api/sites/${siteId}/entries`, entry),
  arrived: (siteId, photoId) => request<Arrived>("GET", `${keptAt(siteId, photoId)}/pieces`),
  piece: (siteId, photoId, { from, of }, piece) =>
    request<Arrived>("POST", `${keptAt(siteId, photoId)}/pieces?from=${from}&of=${of}`, piece),
  along: (siteId) => request<Along>("GET", `/api/sites/${siteId}/along`),
};
