import { redirect } from "next/navigation";
import { AlarmsScreen } from "@/components/screens/alarms/alarms-screen";
import { signedIn } from "@/server/auth/session";

export default async function AlarmsPage() {
  const user = await signedIn();
  if (!user) redirect("/sign-in");
  return <AlarmsScreen canEdit={user.role !== "viewer"} userId={user.userId} who={`${user.name}, ${user.role}`} />;
}
