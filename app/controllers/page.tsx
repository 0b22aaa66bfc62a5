import { redirect } from "next/navigation";
import { AllControllers } from "@/components/screens/controllers/all-controllers";
import { signedIn } from "@/server/auth/session";

export default async function ControllersPage() {
  const user = await signedIn();
  if (!user) redirect("/sign-in");
  return (
    <AllControllers
      who={`${user.name}, ${user.role}`}
      canEdit={user.role !== "viewer"}
      isManager={user.role === "manager"}
    />
  );
}
