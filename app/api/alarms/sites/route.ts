import { guarded } from "@/server/auth/guard";
import { alarmedSites } from "@/server/services/alarms";

export const GET = guarded("viewer", {}, ({ user }) => alarmedSites(user));
