import { redirect } from "next/navigation";
import { Rounds } from "@/components/screens/rounds/rounds";
import { asUser, signedIn } from "@/server/auth/session";
import { rounds } from "@/server/services/rounds";

export default async function RoundsPage() {
  const user = await signedIn();
  if (!user) redirect("/sign-in");
  return (
    <Rounds rows={await asUser(user, () => rounds(user, new Date()))} user={{ name: user.name, role: user.role }} />
  );
}
