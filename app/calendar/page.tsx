import { redirect } from "next/navigation";
import { CalendarScreen } from "@/components/screens/calendar/calendar-screen";
import { signedIn } from "@/server/auth/session";

export default async function CalendarPage() {
  const user = await signedIn();
  if (!user) redirect("/sign-in");
  return <CalendarScreen who={`${user.name}, ${user.role}`} />;
}
