import { redirect } from "next/navigation";
import { Rounds } from "@/components/screens/rounds/rounds";
import { signedIn } from "@/server/auth/session";

export default async function RoundsPage() {
  const user = await signedIn();
  if (!user) redirect("/sign-in");
  return <Rounds user={{ name: user.name, role: user.role }} />;
}
