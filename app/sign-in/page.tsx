import { redirect } from "next/navigation";
import { SignIn } from "@/components/screens/sign-in/sign-in";
import { signedIn } from "@/server/auth/session";

/** Where one comes from, and goes back to; nowhere else. */
const BACK = ["/field"];

export default async function SignInPage({ searchParams }: { searchParams: Promise<{ to?: string | string[] }> }) {
  const { to } = await searchParams;
  const back = BACK.find((b) => b === to) ?? "/";
  if (await signedIn()) redirect(back);
  return <SignIn to={back} />;
}
