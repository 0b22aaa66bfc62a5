import { redirect } from "next/navigation";
import { AccountScreen } from "@/components/screens/account/account-screen";
import { signedIn } from "@/server/auth/session";

export default async function AccountPage() {
  const user = await signedIn();
  if (!user) redirect("/sign-in");
  return <AccountScreen who={`${user.name}, ${user.role}`} />;
}
