import { orderRequest } from "@/contracts/controllers";
import { guarded } from "@/server/auth/guard";
import { ofSite } from "@/server/auth/params";
import { placeOrder } from "@/server/services/orders";

export const POST = guarded("technician", { params: ofSite, body: orderRequest }, ({ user, params, body }) =>
  placeOrder(user, params.siteId, body),
);
