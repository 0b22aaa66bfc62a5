import { open } from "@/server/auth/guard";
import { calendarFeed } from "@/server/services/calendar";

/** Somebody's calendar, for whoever has its secret address. */
export const GET = open<{ secret: string }>(
  async (_, { secret }) =>
    new Response(await calendarFeed(secret, new Date()), {
      headers: { "content-type": "text/calendar; charset=utf-8", "cache-control": "private, no-store" },
    }),
);
