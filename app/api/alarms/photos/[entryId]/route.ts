import { guarded } from "@/server/auth/guard";
import { ofPhoto } from "@/server/auth/params";
import { alarmPhoto } from "@/server/services/alarms";

export const GET = guarded("viewer", { params: ofPhoto }, async ({ user, params }) => {
  const { photo, photoType } = await alarmPhoto(user, params.entryId);
  return new Response(new Uint8Array(photo), {
    headers: {
      "content-type": photoType,
    },
  });
});
