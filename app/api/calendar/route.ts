import { calendarQuery } from "@/contracts/calendar";
import { guarded } from "@/server/auth/guard";
import { calendar, endAddress, makeAddress } from "@/server/services/calendar";

/** What stands in the calendar of every site; and the secret address from which other calendars read it. */
export const GET = guarded("viewer", {}, ({ user, request }) =>
  calendar(user, calendarQuery.parse(Object.fromEntries(new URL(request.url).searchParams)), new Date()),
);
export const POST = guarded("viewer", {}, ({ user }) => makeAddress(user));
export const DELETE = guarded("viewer", {}, async ({ user }) => {
  await endAddress(user);
  return { ended: true };
});
