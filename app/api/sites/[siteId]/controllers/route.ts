import { answerRequest, sendRequest } from "@/contracts/controllers";
import { guarded } from "@/server/auth/guard";
import { ofSite } from "@/server/auth/params";
import { answerDifferences, controllersStatus, sendSettings } from "@/server/services/controllers";

export const GET = guarded("viewer", { params: ofSite }, ({ user, params }) => controllersStatus(user, params.siteId));
export const POST = guarded("technician", { params: ofSite, body: sendRequest }, ({ user, params, body }) =>
  sendSettings(user, params.siteId, body),
);
export const PATCH = guarded("technician", { params: ofSite, body: answerRequest }, ({ user, params, body }) =>
  answerDifferences(user, params.siteId, body),
);
