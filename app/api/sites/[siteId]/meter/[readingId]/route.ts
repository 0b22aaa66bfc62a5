import { guarded } from "@/server/auth/guard";
import { ofReading } from "@/server/auth/params";
import { takeMeterReadingOut } from "@/server/services/meters";

export const DELETE = guarded("technician", { params: ofReading }, async ({ user, params }) => ({
  meters: await takeMeterReadingOut(user, params.siteId, params.readingId),
}));
