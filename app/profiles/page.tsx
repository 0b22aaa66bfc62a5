import { redirect } from "next/navigation";
import { ProfilesScreen } from "@/components/screens/profiles/profiles-screen";
import { signedIn } from "@/server/auth/session";

export default async function ProfilesPage() {
  const user = await signedIn();
  if (!user) redirect("/sign-in");
  return <ProfilesScreen canEdit={user.role !== "viewer"} who={`${user.name}, ${user.role}`} />;
}
