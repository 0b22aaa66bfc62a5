import { todoMade } from "@/contracts/visits";
import { guarded } from "@/server/auth/guard";
import { ofSite } from "@/server/auth/params";
import { makeTodo, siteTodos } from "@/server/services/todos";

/** What is to do at a site. */
export const GET = guarded("viewer", { params: ofSite }, async ({ user, params }) => ({
  todos: await siteTodos(user, params.siteId),
}));
export const POST = guarded("technician", { params: ofSite, body: todoMade }, async ({ user, params, body }) => ({
  todos: await makeTodo(user, params.siteId, body, new Date()),
}));
