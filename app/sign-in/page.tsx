import { redirect } from "next/navigation";
import { SignIn } from "@/components/screens/sign-in/sign-in";
import { signedIn } from "@/server/auth/session";

export default async function SignInPage() {
  if (await signedIn()) redirect("/");
  return <SignIn />;
}
