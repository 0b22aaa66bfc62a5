import { todoChange } from "@/contracts/visits";
import { guarded } from "@/server/auth/guard";
import { ofTodo } from "@/server/auth/params";
import { changeTodo } from "@/server/services/todos";

export const PATCH = guarded("technician", { params: ofTodo, body: todoChange }, async ({ user, params, body }) => ({
  todos: await changeTodo(user, params.siteId, params.todoId, body, new Date()),
}));
