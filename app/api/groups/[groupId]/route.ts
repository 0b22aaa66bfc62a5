import { renameGroupRequest } from "@/contracts/groups";
import { guarded } from "@/server/auth/guard";
import { ofGroup } from "@/server/auth/params";
import { giveGroupName } from "@/server/services/groups";

export const PATCH = guarded("manager", { params: ofGroup, body: renameGroupRequest }, ({ user, params, body }) =>
  giveGroupName(user, params.groupId, body.name),
);
