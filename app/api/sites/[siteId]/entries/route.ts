import { fieldEntry } from "@/contracts/entries";
import { guarded } from "@/server/auth/guard";
import { ofSite } from "@/server/auth/params";
import { takeEntry } from "@/server/services/entries";

/** Something entered in the field, once however often it is sent. */
export const POST = guarded("technician", { params: ofSite, body: fieldEntry }, ({ user, params, body }) =>
  takeEntry(user, params.siteId, body, new Date()),
);
