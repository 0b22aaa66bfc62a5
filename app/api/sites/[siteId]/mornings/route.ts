import { findingAnswerRequest, logRequest } from "@/contracts/mornings";
import { guarded } from "@/server/auth/guard";
import { ofSite } from "@/server/auth/params";
import { answerFinding, morningsStatus, takeLog } from "@/server/services/mornings";

export const GET = guarded("viewer", { params: ofSite }, ({ user, params }) => morningsStatus(user, params.siteId));
export const POST = guarded("technician", { params: ofSite, body: logRequest }, ({ user, params, body }) =>
  takeLog(user, params.siteId, body.text),
);
export const PATCH = guarded("technician", { params: ofSite, body: findingAnswerRequest }, ({ user, params, body }) =>
  answerFinding(user, params.siteId, body),
);
