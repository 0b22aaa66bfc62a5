import { type AuditFilter, auditFilter } from "@/contracts/organisation";

export const auditFilterOf = (request: Request): AuditFilter =>
  auditFilter.parse(Object.fromEntries(new URL(request.url).searchParams));
