import { guarded } from "@/server/auth/guard";
import { toldView } from "@/server/services/telling";

export const GET = guarded("manager", {}, ({ user }) => toldView(user));
