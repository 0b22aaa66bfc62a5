import { redirect } from "next/navigation";
import { OrganisationScreen } from "@/components/screens/organisation/organisation-screen";
import { signedIn } from "@/server/auth/session";

export default async function OrganisationPage() {
  const user = await signedIn();
  if (!user) redirect("/sign-in");
  if (user.role !== "manager") redirect("/");
  return <OrganisationScreen who={`${user.name}, ${user.role}`} me={user.userId} />;
}
