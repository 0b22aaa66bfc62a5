import { redirect } from "next/navigation";
import { WaterScreen } from "@/components/screens/water/water-screen";
import { signedIn } from "@/server/auth/session";

export default async function WaterPage() {
  const user = await signedIn();
  if (!user) redirect("/sign-in");
  return <WaterScreen who={`${user.name}, ${user.role}`} />;
}
