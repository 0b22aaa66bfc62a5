import { redirect } from "next/navigation";
import { ManyScreen } from "@/components/screens/many/many-screen";
import { signedIn } from "@/server/auth/session";

export default async function ManyPage() {
  const user = await signedIn();
  if (!user) redirect("/sign-in");
  if (user.role === "viewer") redirect("/");
  return <ManyScreen who={`${user.name}, ${user.role}`} isManager={user.role === "manager"} />;
}
